"""One keep rule at work over all devices of a run: who decides, and a keeper for each."""

from collections import deque
from collections.abc import Callable
from typing import Any, Protocol

import numpy as np

from yoke_server.kinds.keep_rules.deciding import InstantDecider, Mask, WindowDecider
from yoke_server.record.recorder.stream.keep.instants import PATIENCE_NS, RowKeeper
from yoke_server.record.recorder.stream.keep.windows import WindowKeeper, stretches
from yoke_server.record.recorder.stream.positioned import PositionedBlock


class RuleAtWork(Protocol):
    """Given each block of each device, in order and once."""

    def push_block(
        self, label: str, placed: PositionedBlock, follows: bool, missing: int, left_out: bool
    ) -> None:
        """The next block of a device.

        follows, missing : whether it continues the one before, else how many blocks are missing
        left_out : nothing of it is kept, as in a pause or in a leg that the rule is not for
        """
        ...

    def needs(self, label: str) -> int | None:
        """The sequence of the oldest block that a restart must see again; None: the next one."""
        ...

    def finish(self) -> None:
        """No more comes: what waits is given out."""
        ...

    @property
    def state(self) -> dict[str, Any]: ...
    def resume(self, state: dict[str, Any]) -> None: ...


class FollowedWindows:
    """A keeper of another device: its blocks wait until the lead has seen their time."""

    def __init__(self, keeper: WindowKeeper) -> None:
        self.keeper = keeper
        self._windows: deque[tuple[int, int]] = deque()  # bench time, ns
        self._until_ns = 0
        self._waiting: deque[tuple[PositionedBlock, bool, int]] = deque()

    def push_block(self, placed: PositionedBlock, follows: bool, missing: int) -> None:
        self._waiting.append((placed, follows, missing))
        self._pass_on()

    def tell(self, windows: list[tuple[int, int]], until_ns: int) -> None:
        """Stretches that are kept; ``until_ns``: up to which it is known."""
        self._windows.extend(windows)
        self._until_ns = max(self._until_ns, until_ns)
        self._pass_on()

    def finish(self) -> None:
        """No more comes."""
        self._pass_on(to_the_end=True)
        self.keeper.finish()

    def _pass_on(self, to_the_end: bool = False) -> None:
        while self._waiting:
            placed, follows, missing = self._waiting[0]
            is_late = self._waiting[-1][0].end_ns - placed.end_ns > PATIENCE_NS
            if not (placed.end_ns <= self._until_ns or is_late or to_the_end):
                return
            self._waiting.popleft()
            self.keeper.keep(placed, self._mask(placed), follows, missing)
            while self._windows and self._windows[0][1] <= placed.end_ns:
                self._windows.popleft()

    def _mask(self, placed: PositionedBlock) -> Mask:
        period = 1e9 / placed.segment.rate_hz
        at = placed.begin_ns + np.arange(placed.block.samples) * period
        mask = np.zeros(placed.block.samples, np.bool_)
        for begin, end in self._windows:
            mask |= (at >= begin) & (at < end)
        return mask

    @property
    def needs(self) -> int | None:
        own = self.keeper.needs
        return self._waiting[0][0].block.sequence if self._waiting and own is None else own

    @property
    def state(self) -> dict[str, Any]:
        return self.keeper.state | {"windows": list(self._windows)}

    def resume(self, state: dict[str, Any]) -> None:
        self.keeper.resume(state)
        self._windows = deque((int(a), int(b)) for a, b in state["windows"])


class WindowRule:
    """A rule that keeps stretches; where it has no lead, each device decides by itself.

    seconds : of the run, by bench time
    """

    def __init__(
        self,
        decider: WindowDecider,
        keepers: dict[str, WindowKeeper],
        start_ns: Callable[[], int],
    ) -> None:
        self._decider, self._start_ns = decider, start_ns
        lead = decider.lead
        self._keepers = {k: v for k, v in keepers.items() if lead in ("", k)}
        self._followers = {k: FollowedWindows(v) for k, v in keepers.items() if lead not in ("", k)}

    @property
    def _all(self) -> dict[str, WindowKeeper | FollowedWindows]:
        return {**self._keepers, **self._followers}

    def push_block(
        self, label: str, placed: PositionedBlock, follows: bool, missing: int, left_out: bool
    ) -> None:
        if follower := self._followers.get(label):
            follower.push_block(placed, follows, missing)
            return
        keeper, windows = self._keepers.get(label), []
        if not left_out:
            mask = self._decide(placed, follows)
            windows = _times_of(placed, mask)
            if keeper:
                keeper.keep(placed, mask, follows, missing)
        elif keeper:
            keeper.leave_out()
        for one in self._followers.values():
            one.tell(windows, placed.end_ns)

    def _decide(self, placed: PositionedBlock, follows: bool) -> Mask:
        begin_s = (placed.begin_ns - self._start_ns()) * 1e-9
        seconds = begin_s + np.arange(placed.block.samples) / placed.segment.rate_hz
        return self._decider.decide(placed.summary, seconds, follows)

    def finish(self) -> None:
        for keeper in self._all.values():
            keeper.finish()

    def needs(self, label: str) -> int | None:
        keeper = self._followers.get(label) or self._keepers.get(label)
        return keeper.needs if keeper else None

    @property
    def state(self) -> dict[str, Any]:
        keepers = {label: keeper.state for label, keeper in self._all.items()}
        return {"decider": self._decider.state, **keepers}

    def resume(self, state: dict[str, Any]) -> None:
        self._decider.resume(state["decider"])
        for label, keeper in self._all.items():
            keeper.resume(state[label])


def _times_of(placed: PositionedBlock, mask: Mask) -> list[tuple[int, int]]:
    first, at = placed.first_sample, placed.segment.bench_of
    return [(at(first + a), at(first + b)) for a, b in stretches(mask)]


class InstantRule:
    """A rule that keeps rows at the instants that its lead names."""

    def __init__(self, decider: InstantDecider, keepers: dict[str, RowKeeper]) -> None:
        self._decider, self._keepers = decider, keepers
        self._times: dict[int, int] = {}  # bench time of samples that may be kept later, ns

    def push_block(
        self, label: str, placed: PositionedBlock, follows: bool, missing: int, left_out: bool
    ) -> None:
        if keeper := self._keepers.get(label):
            keeper.push_block(placed, follows)
        if label == self._decider.lead:
            kept, candidates = self._decide(placed, follows, left_out)
            for one in self._keepers.values():
                one.tell(kept, candidates, placed.end_ns)

    def _decide(
        self, placed: PositionedBlock, follows: bool, left_out: bool
    ) -> tuple[list[int], list[int]]:
        """Instants that are kept, and those that may be later."""
        if left_out:
            self._times = {}
            return [], []
        before = self._decider.at
        turns = self._decider.decide(placed.summary, follows)

        def time_of(number: int) -> int:
            if number < before:
                return self._times[number]
            return placed.segment.bench_of(placed.first_sample + number - before)

        kept = [time_of(int(n)) for n in turns.kept]
        self._times = {int(n): time_of(int(n)) for n in turns.candidates}
        return kept, list(self._times.values())

    def finish(self) -> None:
        for keeper in self._keepers.values():
            keeper.finish()

    def needs(self, label: str) -> int | None:
        keeper = self._keepers.get(label)
        return keeper.needs if keeper and label != self._decider.lead else None

    @property
    def state(self) -> dict[str, Any]:
        return {
            "decider": self._decider.state,
            "times": {str(k): v for k, v in self._times.items()},
            **{k: v.state for k, v in self._keepers.items()},
        }

    def resume(self, state: dict[str, Any]) -> None:
        self._decider.resume(state["decider"])
        self._times = {int(k): v for k, v in state["times"].items()}
        for label, keeper in self._keepers.items():
            keeper.resume(state[label])
