"""A signal check as people read it: SI of each channel's quantity, and signals."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http.fields import Answer, Body

Curve = list[float | None]


class HumLine(Answer):
    """A multiple of the mains, and the amplitude there."""

    hz: float
    value: float


class SignalFinding(Answer):
    """One thing that is wrong. ``size``: in SI of the quantity, where its words need one."""

    kind: Literal["clipped", "flat", "hum", "noisier", "drifts", "alike"]
    words: str
    size: float | None = None
    blocks: bool


class CheckedSignal(Answer):
    """A channel. All but ``noise_signal`` and the bits in SI of its quantity; curves less its mean.

    noise_signal : deviation in the signal's unit; noise_before : times that of last time
    hum : at each multiple of the mains
    averaged : noise that is left in means over one period of the mains; without_hum : that is
        left if the hum were not there
    """

    key: str
    name: str
    input: str
    rate_hz: float
    samples: int
    mean: float | None
    noise: float | None
    noise_signal: float | None
    noise_before: float | None
    drift: float
    hum: list[HumLine]
    hum_share: float
    averaged: float | None
    without_hum: float | None
    level_bits: float | None
    noise_bits: float | None
    low: Curve
    high: Curve
    opening: Curve
    amplitude: Curve
    points: Curve
    findings: list[SignalFinding]


class CheckedSignals(Answer):
    """What was found of all channels; ``compared_at``: when they were looked at before."""

    channels: list[CheckedSignal]
    compared_at: datetime | None


class SignalCheckOut(CheckedSignals):
    """``averaging_loss``: how much lower a wave of 6 Hz reads in means over a mains period."""

    id: int
    at: datetime
    by: str
    version: int
    mains_hz: float
    averaging_loss: float


class SignalCheckRow(Answer):
    """One of those that were kept; ``wrong``: how many channels have something to mend."""

    id: int
    at: datetime
    channels: int
    wrong: int
    blocking: int


class SignalCheckIn(Body):
    mains_hz: Annotated[float, Field(ge=10, le=500)] = 50.0


class SpectrumIn(SignalCheckIn):
    channel: Annotated[str, Field(pattern=r"^[a-z0-9]{1,16}$")]


class SpectrumOut(Answer):
    """Amplitudes, SI of the quantity, evenly from 0 to half of ``rate_hz``; none while clipped."""

    rate_hz: float
    amplitude: Curve
    hum: list[HumLine]
    noise: float | None
