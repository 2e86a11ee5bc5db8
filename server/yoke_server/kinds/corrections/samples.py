"""Corrections of a run's readings, sample by sample and over time."""

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field
from yoke_core.errors import SignalError

from yoke_server.common.http import fields
from yoke_server.common.units import factor
from yoke_server.kinds.corrections.base import CorrectedChannel, PlaceOf, RunCorrection
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.pass_filter import Corner, FamilyName, Order, pass_filter

if TYPE_CHECKING:
    from yoke_core.corrections.operations import Operation
    from yoke_core.scaling.line import Line
    from yoke_core.signals.filter_design import FilterDesign

Factor = Annotated[float, fields.between(-1e9, 1e9)]
TimeFactor = Annotated[float, fields.between(1e-9, 1e9)]
Shift = Annotated[float, fields.between(-1e4, 1e4)]  # s


class Scale(RunCorrection):
    """Each reading times a factor."""

    title: ClassVar = "Scale"

    kind: Literal["scale_correction"] = "scale_correction"
    factor: Factor

    def said(self, channel: CorrectedChannel) -> str:
        return f"× {self.factor:g}"

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if self.factor != 0:
            return None
        return Lack("A factor of 0 leaves nothing of the channel.", "Give another factor.")

    def line(self) -> "Line":
        from yoke_core.scaling.line import Line

        return Line(self.factor)


class Offset(RunCorrection):
    """Each reading plus an offset, in the channel's quantity (SI)."""

    title: ClassVar = "Offset"

    kind: Literal["offset_correction"] = "offset_correction"
    offset: fields.Quantity

    def said(self, channel: CorrectedChannel) -> str:
        return f"{self.offset / factor(channel.unit):+g} {channel.unit}"

    def line(self) -> "Line":
        from yoke_core.scaling.line import Line

        return Line(1.0, self.offset)


class TimeShift(RunCorrection):
    """Readings so many seconds later."""

    title: ClassVar = "Shift in time"

    kind: Literal["time_shift"] = "time_shift"
    seconds: Shift

    def said(self, channel: CorrectedChannel) -> str:
        return f"{self.seconds * 1e3:+g} ms"

    def operation(self, place_of: PlaceOf) -> "Operation":
        from yoke_core.corrections.operations import Shift

        return Shift(self.seconds)


class TimeBase(RunCorrection):
    """The times of the channels' whole streams times a factor, as where milliseconds were taken
    for seconds."""

    title: ClassVar = "Time base"

    kind: Literal["time_base"] = "time_base"
    factor: TimeFactor

    def said(self, channel: CorrectedChannel) -> str:
        return f"× {self.factor:g}"

    @property
    def time_factor(self) -> float:
        return self.factor


class Despike(RunCorrection):
    """Single readings that stand out replaced by the median around them, by Hampel's rule.

    reach : readings to each side with which one is compared
    """

    title: ClassVar = "Despike"

    kind: Literal["despike"] = "despike"
    reach: Annotated[int, Field(ge=1, le=200)] = 5
    deviations: Annotated[float, fields.between(0.5, 100)] = 4.0

    def said(self, channel: CorrectedChannel) -> str:
        return f"beyond {self.deviations:g} deviations of {2 * self.reach + 1} readings"

    def operation(self, place_of: PlaceOf) -> "Operation":
        from yoke_core.corrections.operations import Despike as Operation

        return Operation(self.reach, self.deviations)


class ZeroPhaseFilter(RunCorrection):
    """A filter forwards and backwards: without delay, -6 dB at its corner."""

    title: ClassVar = "Zero-phase filter"

    kind: Literal["zero_phase_filter"] = "zero_phase_filter"
    band: Literal["low-pass", "high-pass"] = "low-pass"
    corner_hz: Corner
    order: Order = 4
    family: FamilyName = "Butterworth"

    def said(self, channel: CorrectedChannel) -> str:
        return f"{self.band} {self.corner_hz:g} Hz, order {self.order}, both ways"

    def _design(self) -> "FilterDesign":
        return pass_filter(self.band, self.corner_hz, self.order, self.family)

    def operation(self, place_of: PlaceOf) -> "Operation":
        from yoke_core.corrections.operations import BothWays

        return BothWays(self._design())

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        try:
            self._design().sections(rate_hz)
        except SignalError as error:
            return Lack(f"{channel.name}: {error}", error.hint)
        return None


class Resample(RunCorrection):
    """Readings as a lower sample rate would hold them: what is faster is filtered out, without
    delay. They stay at the instants at which they were taken, so that they go with the others."""

    title: ClassVar = "Resample"

    kind: Literal["resample"] = "resample"
    to_hz: Annotated[float, fields.between(1e-3, 1e6)]

    def said(self, channel: CorrectedChannel) -> str:
        return f"as at {self.to_hz:g} Hz"

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if self.to_hz < rate_hz:
            return None
        said = f"{channel.name} has {rate_hz:g} samples a second: {self.to_hz:g} Hz is no less."
        return Lack(said, "Give a lower rate.")

    def operation(self, place_of: PlaceOf) -> "Operation":
        from yoke_core.corrections.operations import BothWays
        from yoke_core.timebase.interpolation import anti_alias

        return BothWays(anti_alias(self.to_hz))


class RemoveTrend(RunCorrection):
    """Each piece without a gap, less its least-squares line."""

    title: ClassVar = "Detrend"

    kind: Literal["detrend"] = "detrend"

    def said(self, channel: CorrectedChannel) -> str:
        return "less its line"

    def operation(self, place_of: PlaceOf) -> "Operation":
        from yoke_core.corrections.operations import Detrend

        return Detrend()


class WindowZero(RunCorrection):
    """Readings less their mean between two times of the run."""

    title: ClassVar = "Zero on a window"

    kind: Literal["window_zero"] = "window_zero"
    from_s: fields.Seconds
    to_s: fields.Seconds

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if self.from_s < self.to_s:
            return None
        return Lack("The window ends before it begins.", "Give a later end.")

    def said(self, channel: CorrectedChannel) -> str:
        return f"{self.from_s:g} to {self.to_s:g} s"

    def operation(self, place_of: PlaceOf) -> "Operation":
        from yoke_core.corrections.operations import ZeroOnWindow

        return ZeroOnWindow(place_of(self.from_s), place_of(self.to_s))
