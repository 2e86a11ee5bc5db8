"""Orders that look at some seconds of channels as they come. They touch nothing, so that they
are taken also while a run is recorded; what was seen is worked out beside the bench's turn, so
that neither a guard nor a run waits for it."""

import logging
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, field

import numpy as np
from numpy.typing import NDArray
from yoke_core.snapshot.facts import LEAST, alike, snapshot_of
from yoke_core.snapshot.verdicts import ALIKE

from yoke_server.bench.drivers.base import AcquisitionStatus, SampleBlock
from yoke_server.kinds.orders.measuring import SignalReading, SignalSnapshot, TakeSnapshot
from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.control.bench_context import BenchContext, sentence
from yoke_server.record.recorder.control.sample_window import SampleWindow
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import DOING, Refused
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.setups.document import FrozenChannel

SAMPLED = 2.0  # s
PATIENCE = 8.0  # s
MAX_SAMPLED = 6.0  # s that a slow device is looked at, until it has enough samples
MAX_LOOKS = 8  # at a time, of all screens
MAX_SAMPLES = 8_000_000  # of one look together; what is faster is looked at for shorter
MIN_SECONDS = 0.2
MAX_IN_RUN = 4  # channels of one look while a run is recorded

log = logging.getLogger(__name__)


@dataclass(eq=False)
class Looking:
    """Some seconds of chosen channels of one device, sample by sample."""

    channels: list[FrozenChannel]
    seconds: float
    rate_hz: float = 0.0
    _window: SampleWindow | None = None
    _seen: list[NDArray[np.float32]] = field(default_factory=list)
    _count: int = 0
    _scales: list[float | None] = field(default_factory=list)

    @property
    def done(self) -> bool:
        return self._window is not None and self._count >= self._wanted

    @property
    def _wanted(self) -> int:
        return max(round(self.seconds * self.rate_hz), LEAST)

    def push(self, placed: PositionedBlock) -> None:
        """Add a block; a gap, or another rate, begins anew."""
        block = placed.block
        if self.done:
            return
        if self._window is None or block.rate_hz != self.rate_hz:
            self._begin(block)
        assert self._window is not None
        if not self._window.admits(block):
            return
        if self._window.is_torn_by(block):
            self._seen, self._count = [], 0
        rows = [c.input_number - 1 for c in self.channels]
        self._seen.append(placed.summary.ratios[rows].copy())
        self._count += block.samples

    def _begin(self, block: SampleBlock) -> None:
        self.rate_hz = block.rate_hz
        status = AcquisitionStatus(block.acquisition, 0, block.sequence, block.rate_hz)
        self._window = SampleWindow(status, settling=0)
        self._seen, self._count = [], 0
        is_counted = np.issubdtype(block.counts.dtype, np.integer)
        self._scales = [
            float(block.full_scale[c.input_number - 1]) / block.rail if is_counted else None
            for c in self.channels
        ]

    def answer(self, mains_hz: float) -> SignalSnapshot:
        samples = np.concatenate(self._seen, axis=1)[:, : self._wanted].astype(float)
        keys = [c.key for c in self.channels]
        found = {
            key: _plain(row, self.rate_hz, mains_hz, scale)
            for key, row, scale in zip(keys, samples, self._scales, strict=True)
        }
        pairs = [(keys[i], keys[j], r) for i, j, r in alike(samples, ALIKE)]
        return SignalSnapshot(channels=found, alike=pairs)


def _plain(
    row: NDArray[np.float64], rate_hz: float, mains_hz: float, scale: float | None
) -> SignalReading:
    """As JSON, which has no word for not a number."""
    known = asdict(snapshot_of(row, rate_hz, mains_hz, scale))
    plain = {k: _of_json(v) for k, v in known.items()}
    return SignalReading.model_validate({**plain, "count": scale})


def _of_json(value: object) -> object:
    if isinstance(value, np.ndarray):
        return [float(v) if np.isfinite(v) else None for v in value]
    if isinstance(value, float) and not np.isfinite(value):
        return None
    return value


@dataclass(eq=False)
class Look:
    """One order: what it looks at, by device, and until when."""

    mains_hz: float
    until: float
    devices: dict[str, Looking]


class SignalSnapshots:
    """Several screens may look at the same time."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context
        self._looks: dict[str, Look] = {}  # by order
        self._work = ThreadPoolExecutor(1, "snapshots")

    def take(self, order: events.OrderIn[TakeSnapshot]) -> None:
        context = self._context
        channels = self._fast_enough(context.chosen(order.order.channels))
        if not channels:
            raise Refused("There is no channel that is sampled fast enough to be looked at.")
        if len(self._looks) >= MAX_LOOKS:
            raise Refused("Too many screens look at signals.", "Look again in a moment.")
        few = sum(map(len, channels.values())) <= MAX_IN_RUN
        if not few and context.phase is not Phase.IDLE:
            raise Refused(DOING[context.phase], "Look at all signals before a run, or after it.")
        context.require_measurable(set(channels))
        self._looks[order.key] = Look(
            order.order.mains_hz,
            context.now + PATIENCE,
            {label: Looking(found, self._seconds(channels)) for label, found in channels.items()},
        )

    def _fast_enough(
        self, channels: dict[str, list[FrozenChannel]]
    ) -> dict[str, list[FrozenChannel]]:
        setup = self._context.setup
        rates = setup.rates_hz if setup else {}
        return {
            label: found
            for label, found in channels.items()
            if rates.get(label, 0.0) * MAX_SAMPLED >= LEAST
        }

    def _seconds(self, channels: dict[str, list[FrozenChannel]]) -> float:
        """How long is looked, so that all samples have room."""
        setup = self._context.setup
        rates = setup.rates_hz if setup else {}
        together = sum(rates.get(label, 0.0) * len(found) for label, found in channels.items())
        return max(MIN_SECONDS, min(SAMPLED, MAX_SAMPLES / together if together else SAMPLED))

    def push_block(self, device: str, placed: PositionedBlock) -> None:
        for key, look in list(self._looks.items()):
            if device not in look.devices:
                continue
            look.devices[device].push(placed)
            if all(part.done for part in look.devices.values()):
                del self._looks[key]
                self._work.submit(self._finish, key, look)

    def _finish(self, key: str, look: Look) -> None:
        """In the thread beside."""
        try:
            self._context.done(key, _answer(look).model_dump(mode="json"))
        except Exception:
            log.exception("A look at signals")
            self._context.refuse(key, "What was seen gives no numbers.", "Look again.")

    def give_up(self, device: str, why: str) -> None:
        for key, look in list(self._looks.items()):
            if device in look.devices:
                del self._looks[key]
                self._context.refuse(key, sentence(why))

    def tick(self) -> None:
        for key, look in list(self._looks.items()):
            if self._context.now > look.until:
                del self._looks[key]
                self._context.refuse(key, "Looking took too long: samples stay away.")


def _answer(look: Look) -> SignalSnapshot:
    parts = [part.answer(look.mains_hz) for part in look.devices.values()]
    return SignalSnapshot(
        channels={key: r for part in parts for key, r in part.channels.items()},
        alike=[pair for part in parts for pair in part.alike],
    )
