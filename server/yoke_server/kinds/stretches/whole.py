from typing import Literal

from yoke_server.kinds.stretches.base import RunStretch


class WholeRun(RunStretch):
    """All of it."""

    kind: Literal["whole"] = "whole"
