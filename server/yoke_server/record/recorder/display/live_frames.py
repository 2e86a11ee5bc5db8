"""The frames that screens get of each block (live/protocol.py): readings, extremes, a few bins."""

from itertools import count

import numpy as np
from django.conf import settings
from yoke_core.signals.bank import ChainBank
from yoke_core.streaming.block import BlockSummary
from yoke_core.streaming.live import FIGURES, LiveFigures

from yoke_server.kinds.chain import SMALL, chain_of
from yoke_server.live.protocol import NO_RUN, Layout, frame_header, row_bytes
from yoke_server.record.recorder.display.late_frames import LateFrames
from yoke_server.record.recorder.display.live_computed import LiveComputed
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.signals import Signals

BINS = 5

NO_SIGNALS = Signals()

_ids = count(1)


def late_frames(
    device: str, channels: list[FrozenChannel], signals: Signals, rates_hz: dict[str, float]
) -> LateFrames:
    """The frames of a device's signals that need readings of others; of none without any."""
    readable = [c for c in channels if not _why_unreadable(c)]
    wait_s = settings.LIVE_WAIT_SECONDS
    return LateFrames(device, readable, signals, rates_hz, next(_ids), BINS, wait_s)


class LiveFrames:
    """Makes the frames of one device's wired channels; keeps their peaks and statistics.

    wanted : keys of the channels that it was given
    keys : of those that are shown by their chain alone
    faults : why a channel is not among those shown: nothing can be computed by its scaling
    """

    def __init__(
        self,
        device: str,
        wanted: list[FrozenChannel],
        signals: Signals = NO_SIGNALS,
        rate_hz: float = 1.0,
    ) -> None:
        self.wanted = [c.key for c in wanted]
        self.signals, self.rate_hz = signals, rate_hz
        self.faults = {c.key: why for c in wanted if (why := _why_unreadable(c))}
        self.faults |= signals.faults
        readable = [c for c in wanted if c.key not in self.faults]
        self._computed = LiveComputed(readable, signals, rate_hz)
        self.faults |= self._computed.faults
        channels = [c for c in readable if c.key not in signals.nodes]
        self.keys = [c.key for c in channels]
        shown = self.keys + self._computed.keys
        self.layout = Layout(id=next(_ids), device=device, channels=shown)
        rows = [c.input_number - 1 for c in channels]
        chains = [chain_of(c) for c in channels]
        self._bank = ChainBank(chains, rows)
        # A signal's deviation as the quantity's, by the slope at rest.
        steep = [
            k.steepness(c.wiring.rest_signal(c), SMALL[c.signal])
            for k, c in zip(chains, channels, strict=True)
        ]
        turned = np.array([k.direction < 0 for k in chains], dtype=bool)
        self._bent = [
            (i, row, k)
            for i, (row, k) in enumerate(zip(rows, chains, strict=True))
            if k.direction == 0
        ]
        self._figures = LiveFigures(
            np.array(rows, dtype=np.intp), turned, np.array(steep, dtype=float)
        )
        self._table = np.zeros((len(shown), row_bytes(BINS) // 4), "<f4")
        self._table[:, 0] = np.arange(len(shown))

    def take_over(self, older: "LiveFrames", same: set[str]) -> None:
        """Keep the peaks of channels that are measured as before."""
        for i, key in enumerate(self.keys):
            if key in same:
                self._figures.peaks[i] = older._figures.peaks[older.keys.index(key)]

    def start_afresh(self) -> None:
        """Reset peaks and everything computed over time: the settings have changed."""
        self.reset_peaks([])
        self._computed.start_afresh()

    def reset_peaks(self, keys: list[str]) -> None:
        """Reset lowest and highest; for all channels without ``keys``."""
        for i, key in enumerate(self.keys):
            if not keys or key in keys:
                self._figures.peaks[i] = np.nan
        self._computed.reset_peaks(keys)

    def encode(
        self, summary: BlockSummary, end_s: float, run_s: float = NO_RUN, follows: bool = True
    ) -> bytes:
        """A frame; ``end_s`` and ``run_s`` are bench and run time at the end of the block.

        follows : whether the block continues the one before
        """
        count, width = len(self.keys), summary.shown.shape[1]
        whole = self._table[:, : FIGURES + width]
        scaled = self._bank.apply(summary.shown)
        for i, row, chain in self._bent:
            ends = summary.low[row], summary.high[row]
            scaled[i, 1::3], scaled[i, 2::3] = chain.extremes(*ends)
        self._figures.take(
            scaled,
            summary.mean,
            summary.clipped,
            summary.ratios.shape[1],
            summary.deviation,
            whole[:count, 1:],
        )
        if self._computed.keys:
            self._computed.fill(summary, follows, whole[count:, 1:])
        header = frame_header(self.layout.id, len(whole), width // 3, end_s, run_s)
        return header + whole.tobytes()


def _why_unreadable(channel: FrozenChannel) -> str:
    """Why nothing can be computed by a channel's scaling; empty if it can."""
    try:
        slope = chain_of(channel).steepness(
            channel.wiring.rest_signal(channel), SMALL[channel.signal]
        )
    except (ValueError, ArithmeticError, KeyError) as error:
        return f"{channel.name}: {error}"
    return "" if np.isfinite(slope) else f"{channel.name}: its scaling gives no number."
