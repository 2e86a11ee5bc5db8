from dataclasses import dataclass
from typing import Any, Literal

from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.triggers.base import Trigger


class TenthBlock(Trigger):
    """A made-up trigger: comes with the tenth block of a device."""

    kind: Literal["tenth_block"] = "tenth_block"
    device: str

    def watch(self, setup: MeasuringSetup) -> "Counting":
        return Counting(self.device)

    def said(self, setup: MeasuringSetup) -> str:
        return f"ten blocks of {self.device} have come"


@dataclass(slots=True)
class Counting:
    device: str
    seen: int = 0

    def fires(self, block: Any, follows: bool) -> int | None:
        self.seen += 1
        return 0 if self.seen == 10 else None
