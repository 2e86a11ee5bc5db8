from typing import ClassVar, Literal

from yoke_server.kinds.motions.base import Motion


class NoMotion(Motion):
    """Nothing moves: the run only measures."""

    needs: ClassVar = frozenset()

    kind: Literal["none"] = "none"

    @property
    def sentence(self) -> str:
        return "Nothing was moved."
