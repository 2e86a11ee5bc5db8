"""Settings of a channel that were wrong while its run was recorded."""

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.common.units import from_si, is_unit_of, suitable_decimals, units_of
from yoke_server.kinds.channel_specs import ScalingSpec
from yoke_server.kinds.corrections.base import CorrectedChannel, SettingCorrection
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.steps import StepList


class GaugeFactorCorrection(SettingCorrection):
    """Another gauge factor."""

    title: ClassVar = "Gauge factor"

    kind: Literal["gauge_factor_correction"] = "gauge_factor_correction"
    gauge_factor: fields.GaugeFactor

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if lack := super().lacks(channel, rate_hz):
            return lack
        assert channel.measured is not None
        if channel.measured.scaling.factor_of_gauge is not None:
            return None
        return Lack(f"{channel.name} is no strain gauge.", "Correct its scaling instead.")

    def said(self, channel: CorrectedChannel) -> str:
        return f"{self.gauge_factor:g}"

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        update = {"gauge_factor": self.gauge_factor}
        return {"scaling": channel.scaling.model_copy(update=update)}


class ScalingCorrection(SettingCorrection):
    """Another scaling."""

    title: ClassVar = "Scaling"

    kind: Literal["scaling_correction"] = "scaling_correction"
    scaling: ScalingSpec

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if lack := super().lacks(channel, rate_hz):
            return lack
        assert channel.measured is not None
        wiring = channel.measured.wiring
        if self.scaling.kind in wiring.scaling_kinds():
            return None
        said = f"{channel.name}: a {wiring.words} cannot be scaled by {self.scaling.words}."
        return Lack(said, "Choose another scaling.")

    def said(self, channel: CorrectedChannel) -> str:
        return self.scaling.words

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        return {"scaling": self.scaling}


class StepsCorrection(SettingCorrection):
    """Other steps of the reading: filters and corrections of the gauge, as from the beginning."""

    title: ClassVar = "Steps of the reading"

    kind: Literal["steps_correction"] = "steps_correction"
    steps: StepList

    def said(self, channel: CorrectedChannel) -> str:
        return ", ".join(step.title.lower() for step in self.steps if step.on) or "none"

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        return {"steps": self.steps}


class SignCorrection(SettingCorrection):
    """The channel counts the other way."""

    title: ClassVar = "Sign"

    kind: Literal["sign_correction"] = "sign_correction"

    def said(self, channel: CorrectedChannel) -> str:
        return "turned"

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        return {"polarity": "turned" if channel.polarity == "as wired" else "as wired"}


class ZeroCorrection(SettingCorrection):
    """Another zero: the signal at rest, SI."""

    title: ClassVar = "Zero"

    kind: Literal["zero_correction"] = "zero_correction"
    zero: fields.Signal

    def said(self, channel: CorrectedChannel) -> str:
        return f"{self.zero:.6g}"

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        return {"zero": self.zero}


class TareCorrection(SettingCorrection):
    """Another tare, in the channel's quantity (SI)."""

    title: ClassVar = "Tare"

    kind: Literal["tare_correction"] = "tare_correction"
    tare: fields.Quantity

    def said(self, channel: CorrectedChannel) -> str:
        return f"{from_si(self.tare, channel.unit):g} {channel.unit}"

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        return {"tare": self.tare}


class UnitCorrection(SettingCorrection):
    """Values that came with the channel were in another unit; of a measured signal, the unit in
    which it is read."""

    title: ClassVar = "Unit"

    kind: Literal["unit_correction"] = "unit_correction"
    unit: Annotated[str, fields.Text(1, 12)]

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if lack := super().lacks(channel, rate_hz):
            return lack
        if is_unit_of(self.unit, channel.quantity):
            return None
        choices = ", ".join(units_of(channel.quantity))
        return Lack(
            f"{channel.name} measures {channel.quantity}: {self.unit} is no unit of it.",
            f"Choose one of {choices}.",
        )

    def said(self, channel: CorrectedChannel) -> str:
        return self.unit

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        return {
            "scaling": channel.scaling.with_unit(self.unit),
            "unit": self.unit,
            "decimals": suitable_decimals(channel.quantity, self.unit),
        }
