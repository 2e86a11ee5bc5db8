"""What the runner knows of one device: its link, its clock, its newest blocks."""

import itertools
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol

from yoke_core.timebase.clock import ClockModel

from yoke_server.bench.drivers.base import (
    AcquiringDriver,
    AcquisitionStatus,
    InputSettings,
    SampleBlock,
)
from yoke_server.record.recorder.display.late_frames import LateFrames
from yoke_server.record.recorder.display.live_frames import NO_SIGNALS, LiveFrames, late_frames
from yoke_server.record.recorder.stream.device_line import DeviceLine
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.signals import Signals, signals_of

DeviceCommand = Callable[[AcquiringDriver], dict[str, object]]
Conditioning = tuple[list[InputSettings], float]
SETTLING_BLOCKS = 3  # until what was switched has rung out
_turns = itertools.count()


class Port(Protocol):
    """What the runner asks of a device; answers come as events."""

    def start(self) -> None: ...
    def finish(self) -> None: ...
    def set_streaming(self, yes: bool) -> None: ...
    def configure(self, token: str, settings: list[InputSettings], rate_hz: float) -> None: ...
    def read_status(self, token: str) -> None: ...
    def set_shunt(self, token: str, inputs: list[int], on: bool) -> None: ...
    def send_again(self, first: int, last: int) -> None: ...
    def probe(self, token: str, inputs: list[int]) -> None: ...
    def tell(self, token: str, what: DeviceCommand) -> None: ...


@dataclass(slots=True)
class BenchDevice:
    """One device as the runner sees it. ``why_not`` is empty while it can be used."""

    label: str
    port: Port
    clock: ClockModel
    line: DeviceLine
    why_not: str = "it has not answered yet."
    frames: LiveFrames = field(default_factory=lambda: LiveFrames("", []))
    late: LateFrames = field(default_factory=lambda: late_frames("", [], NO_SIGNALS, {}))
    in_force: Conditioning | None = None
    heard_at: float = 0.0  # when a block last arrived; what it says of its age the line knows
    asked: str = ""  # token of the settings that were sent last
    refusal: str = ""  # why it did not take them
    settled: bool = False  # whether what arrives is measured by them
    _since: AcquisitionStatus | None = None  # where they came into force

    @property
    def usable(self) -> bool:
        return not self.why_not

    def show_channels(self, setup: FrozenSetup | None, same: set[str]) -> bool:
        """Make frames for a setup's channels; True if they differ from what was shown before.

        Channels in ``same`` are measured as before and keep their peaks.
        """
        channels = setup.of_device(self.label) if setup else []
        signals = _signals_of(setup) if setup and channels else NO_SIGNALS
        rate_hz = setup.rates_hz.get(self.label, 1.0) if setup else 1.0
        keys, shown = [c.key for c in channels], self.frames
        as_before = keys == shown.wanted and signals == shown.signals
        if as_before and same >= set(keys) and shown.layout.device and rate_hz == shown.rate_hz:
            return False
        fresh = LiveFrames(self.label, channels, signals, rate_hz)
        fresh.take_over(self.frames, same & set(self.frames.keys))
        self.frames = fresh
        everywhere = setup.channels if setup else []
        self.late = late_frames(self.label, everywhere, signals, setup.rates_hz if setup else {})
        return True

    def condition(self, wanted: Conditioning) -> None:
        """Send settings; until their first blocks arrive nothing is measured for an order."""
        self.in_force, self.asked = wanted, f"setup {next(_turns)}"
        self.refusal, self.settled, self._since = "", False, None
        self.port.configure(self.asked, *wanted)

    def configured(self, status: AcquisitionStatus | None, problem: str) -> None:
        """The device's answer about the settings that were sent last."""
        self._since, self.refusal = status, problem
        if problem:
            self.in_force = None

    def settle(self, block: SampleBlock) -> None:
        """Reset peaks at the first settled block: earlier ones used other settings."""
        since = self._since
        if since is None or block.acquisition != since.acquisition:
            return
        if block.sequence >= since.next + SETTLING_BLOCKS:
            self.frames.start_afresh()
            self.late.start_afresh()
            self.settled, self._since = True, None

    def expects(self, acquisition: int) -> bool:
        """Whether settings that are under way may have begun this acquisition."""
        since = self._since
        under_way = bool(self.asked) and not self.settled
        return under_way and (since is None or since.acquisition == acquisition)

    def restarted(self) -> None:
        """It has forgotten its settings."""
        self.in_force, self.asked, self.refusal = None, "", ""
        self.settled, self._since = False, None

    def lost(self, why: str) -> None:
        self.why_not = why
        self.restarted()


def _signals_of(setup: FrozenSetup) -> Signals:
    return signals_of(setup.channels, setup.computed, setup.rates_hz)


def conditioning(setup: FrozenSetup, label: str) -> Conditioning | None:
    """The settings that a setup wants of a device; none if it uses no input of it."""
    channels = setup.of_device(label)
    if not channels:
        return None
    wanted = (c.wiring.settings(c.input_number, c.conditioning) for c in channels)
    inputs = [settings for settings in wanted if settings]
    return inputs, setup.rates_hz[label]
