from typing import Literal

from yoke_server.kinds.stretches.base import Stretch


class WholeRun(Stretch):
    """All of it."""

    kind: Literal["whole"] = "whole"
