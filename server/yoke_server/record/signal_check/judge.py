"""What a snapshot of each channel comes to, in words."""

import math
from collections.abc import Mapping

import numpy as np
from yoke_core.snapshot.facts import Snapshot
from yoke_core.snapshot.verdicts import Finding, findings_of

from yoke_server.kinds.chain import SMALL, chain_of
from yoke_server.kinds.orders.measuring import SignalReading, SignalSnapshot
from yoke_server.record.signal_check.schemas import CheckedSignal, HumLine, SignalFinding
from yoke_server.setups.document import FrozenChannel

WORDS = {
    "clipped": "clipped {size:.0f} times",
    "flat": "flat: the same value {size:.0f} times",
    "hum": "hum at {at_hz:g} Hz, {share:.0%} of its noise, amplitude",
    "drifts": "drifts, each second by",
    "noisier": "{size:.1f} times as noisy as last time",
}
OF_QUANTITY = frozenset({"hum", "drifts"})  # whose size is one of the channel's quantity


def judged(
    found: SignalSnapshot, channels: list[FrozenChannel], before: Mapping[str, float]
) -> list[CheckedSignal]:
    """In the order of the channels; ``before``: noise of last time in the signal, by key."""
    names = {c.key: c.name for c in channels}
    return [
        _judged(c, found.channels[c.key], before.get(c.key), _partners(found, c.key, names))
        for c in channels
        if c.key in found.channels
    ]


def per_signal(channel: FrozenChannel) -> float:
    """Size of the quantity by signal, at rest; `ValueError` for a scaling that gives none."""
    chain = chain_of(channel)
    return chain.steepness(channel.wiring.rest_signal(channel), SMALL[channel.signal])


def _partners(found: SignalSnapshot, key: str, names: dict[str, str]) -> list[SignalFinding]:
    """Channels that go with this one."""
    others = [(b if a == key else a, r) for a, b, r in found.alike if key in (a, b)]
    return [
        SignalFinding(kind="alike", words=f"goes with {names[other]}, r = {r:.2f}", blocks=False)
        for other, r in others
        if other in names
    ]


def _judged(
    channel: FrozenChannel,
    reading: SignalReading,
    before: float | None,
    partners: list[SignalFinding],
) -> CheckedSignal:
    slope = _slope(channel)
    snapshot = as_snapshot(reading)
    wrong = [_said(f, snapshot, slope) for f in findings_of(snapshot, reading.count, before)]
    noise = reading.noise
    return CheckedSignal(
        key=channel.key,
        name=channel.name,
        input=f"{channel.device_label}.{channel.input_number}",
        rate_hz=reading.rate_hz,
        samples=reading.samples,
        mean=_times(reading.mean, slope),
        noise=_times(noise, slope),
        noise_signal=noise,
        noise_before=noise / before if noise is not None and before else None,
        drift=reading.drift * slope,
        hum=hum_lines(reading.hum, slope),
        hum_share=reading.hum_share,
        averaged=_times(reading.averaged, slope),
        without_hum=_times(noise, slope * math.sqrt(1 - reading.hum_share)),
        level_bits=reading.level_bits,
        noise_bits=reading.noise_bits,
        low=_less(reading.low, reading.mean, slope),
        high=_less(reading.high, reading.mean, slope),
        opening=_less(reading.opening, reading.mean, slope),
        amplitude=[_times(a, slope) for a in reading.amplitude],
        points=_less(reading.points, reading.mean, slope),
        findings=[*wrong, *partners],
    )


def _slope(channel: FrozenChannel) -> float:
    """Of the scaling; 0 where it gives no number, so that only signals are shown."""
    try:
        found = per_signal(channel)
    except (ValueError, ArithmeticError, KeyError):
        return 0.0
    return found if math.isfinite(found) else 0.0


def as_snapshot(reading: SignalReading) -> Snapshot:
    """As core has it; a number that is not there is NaN."""
    known = reading.model_dump(exclude={"count"})
    for name in ("mean", "noise", "peak_to_peak"):
        known[name] = math.nan if known[name] is None else known[name]
    for name in ("low", "high", "opening", "amplitude", "points"):
        known[name] = np.array([math.nan if v is None else v for v in known[name]])
    return Snapshot(**known)


def _said(finding: Finding, snapshot: Snapshot, slope: float) -> SignalFinding:
    words = WORDS[finding.kind].format(
        size=finding.size, at_hz=finding.at_hz, share=snapshot.hum_share
    )
    of_quantity = finding.kind in OF_QUANTITY
    return SignalFinding(
        kind=finding.kind,
        words=words.replace("%", " %"),
        size=finding.size * slope if of_quantity else None,
        blocks=finding.blocks,
    )


def hum_lines(hum: list[tuple[float, float]], slope: float) -> list[HumLine]:
    """In SI of the quantity."""
    return [HumLine(hz=hz, value=amplitude * slope) for hz, amplitude in hum]


def _times(value: float | None, by: float) -> float | None:
    return None if value is None else value * by


def _less(values: list[float | None], mean: float | None, slope: float) -> list[float | None]:
    middle = mean or 0.0
    return [None if v is None else (v - middle) * slope for v in values]
