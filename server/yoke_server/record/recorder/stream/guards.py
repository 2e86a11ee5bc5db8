"""The guards of a run, looked at in every sample in order before it is stored."""

from dataclasses import dataclass

from yoke_core.streaming.block import BlockSummary

from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.watching import GuardWatch
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.watched import WatchedSetup


@dataclass(frozen=True, slots=True)
class Trip:
    """A guard, by its place in the setup's list, has tripped; ``words`` say on what."""

    place: int
    action: GuardAction
    words: str


class Guards:
    """All guards of a setup; raises CoreError where one of them could not look."""

    def __init__(self, setup: FrozenSetup) -> None:
        watched = WatchedSetup(setup)
        self._specs = setup.guards
        self._watches: list[GuardWatch] = [guard.watch(watched) for guard in setup.guards]

    @property
    def devices(self) -> set[str]:
        return {watch.device for watch in self._watches}

    @property
    def tripped(self) -> list[int]:
        """Places of those whose channel is beyond, or was a moment ago."""
        return [place for place, watch in enumerate(self._watches) if watch.tripped]

    @property
    def forbids(self) -> str:
        """Why nothing may begin to move; empty while no guard but a warning one has tripped."""
        return next(
            (
                watch.words
                for spec, watch in zip(self._specs, self._watches, strict=True)
                if watch.tripped and spec.action is not GuardAction.WARN
            ),
            "",
        )

    def look(self, device: str, summary: BlockSummary, follows: bool) -> list[Trip]:
        """Those that trip with a block, the next of its device.

        follows : whether it continues the one before
        """
        return [
            Trip(place, self._specs[place].action, words)
            for place, watch in enumerate(self._watches)
            if watch.device == device and (words := watch.look(summary, follows))
        ]
