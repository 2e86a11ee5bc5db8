from typing import Literal

from yoke_server.kinds.triggers.base import Trigger


class AtOnce(Trigger):
    """Kept from the start on."""

    kind: Literal["at_once"] = "at_once"
