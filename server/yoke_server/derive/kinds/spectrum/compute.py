"""The spectrum of one channel over a stretch of a run."""

from typing import TYPE_CHECKING, Any, ClassVar

from yoke_server.common.units import difference_unit
from yoke_server.derive.inputs import channel_of, setup_of, times_with
from yoke_server.derive.kinds.base import Column, Columns, Computed, Value
from yoke_server.derive.kinds.of_channel import ChannelResult
from yoke_server.derive.kinds.spectrum.spec import (
    MAX_LENGTH,
    Line,
    SpectrumDetails,
    SpectrumParameters,
)
from yoke_server.derive.stretch import within
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run

if TYPE_CHECKING:
    from yoke_core.spectrum.averaged import Spectrum

PEAKS = 5
GAP = 1.5  # steps, beyond which samples are missing


class SpectrumKind(ChannelResult):
    """Welch's method: peaks, density, third octaves, the RMS value of a band."""

    engine: ClassVar[int] = 1
    noun: ClassVar = "Spectrum"
    parameters: ClassVar[type[Spec]] = SpectrumParameters
    details: ClassVar[type[Spec]] = SpectrumDetails

    def compute(self, run: Run, parameters: Any) -> Computed:
        from yoke_core.spectrum.averaged import octave_bands

        setup = setup_of(run)
        self.check(parameters, setup)
        channel, found = channel_of(setup, parameters.channel), _spectrum(run, parameters)
        peaks, unit = found.peaks(PEAKS), difference_unit(channel.unit, channel.quantity)
        details = SpectrumDetails(
            channel=channel.name,
            unit=unit,
            window=parameters.window,
            parts=found.parts,
            step_hz=float(found.hz[1]),
            bandwidth_hz=found.bandwidth,
            peaks=[Line(hz=hz, value=value) for hz, value in peaks],
            bands=[Line(hz=hz, value=value) for hz, value in octave_bands(found)],
        )
        columns = [
            Column("frequency", "Hz", found.hz),
            Column("amplitude", unit, found.amplitude),
            Column("density", f"{unit}²/Hz", found.density),
        ]
        return Computed(_values(found, peaks, channel.decimals, unit, parameters), details, columns)

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        from yoke_server.derive.kinds.spectrum.figure import figure

        return figure(columns, details, parameters)


def _spectrum(run: Run, parameters: SpectrumParameters) -> "Spectrum":
    """Parts are as long as the resolution asks for; none reaches over a gap."""
    import numpy as np
    from yoke_core.spectrum.averaged import AveragedSpectrum

    rate = times_with(run, parameters.channel).segments[0].rate_hz
    length = min(MAX_LENGTH, max(8, round(rate / parameters.resolution_hz)))
    found, last = AveragedSpectrum(rate, length, parameters.window), -np.inf
    for seconds, values in within(run, parameters.channel, parameters.stretch):
        breaks = np.flatnonzero(np.diff(seconds, prepend=last) * rate > GAP)
        for at, part in zip([0, *breaks], np.split(values, breaks), strict=True):
            if at in breaks:
                found.restart()
            found.push(part)
        last = seconds[-1]
    return found.finish()


def _values(
    found: "Spectrum",
    peaks: list[tuple[float, float]],
    decimals: int,
    unit: str,
    parameters: SpectrumParameters,
) -> list[Value]:
    top = float(found.hz[-1])
    low, high = parameters.band_from_hz, min(parameters.band_to_hz or top, top)
    band = f"{low:g} to {high:g} Hz"
    window = f"{parameters.window.replace('_', ' ')} window, {found.parts} parts"
    values = [Value("RMS", "RMS in the band", found.rms(low, high), unit, decimals, band)]
    for place, (hz, amplitude) in enumerate(peaks[:2], start=1):
        about = f"peak {place}, {window}"
        values += [
            Value(f"f{place}", f"Frequency of peak {place}", hz, "Hz", 2, about),
            Value(
                f"A{place}", f"Amplitude of peak {place}", amplitude, unit, decimals, about,
            ),
        ]  # fmt: skip
    return values
