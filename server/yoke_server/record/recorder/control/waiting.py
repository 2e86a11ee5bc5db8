"""A run that waits for its trigger: something may move, guards look, and nothing is kept."""

from datetime import datetime

from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.watched import WatchedSetup


class Waiting:
    """Until the trigger of a setup has come.

    words : what is waited for
    pre_s : how much of before it is kept too
    """

    def __init__(self, setup: FrozenSetup) -> None:
        watched, trigger = WatchedSetup(setup), setup.trigger
        self.words = trigger.said(watched)
        self.pre_s = trigger.pre_s
        self._watch, self._at = trigger.watch(watched), trigger.at

    def look(self, device: str, placed: PositionedBlock, follows: bool) -> int | None:
        """The bench time, ns, at which it comes in a block, the next of its device."""
        if self._watch is None or self._watch.device != device:
            return None
        sample = self._watch.fires(placed.summary, follows)
        return None if sample is None else placed.segment.bench_of(placed.first_sample + sample)

    def is_due(self, now: datetime) -> bool:
        """Whether the moment has come that it waits for."""
        return self._at is not None and now >= self._at


def waiting_of(setup: FrozenSetup) -> Waiting | None:
    """None where the trigger has a run kept from its start on."""
    found = Waiting(setup)
    return found if found.words else None
