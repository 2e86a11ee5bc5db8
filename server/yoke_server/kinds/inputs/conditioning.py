"""Conditioning settings of an input, by kind."""

from collections.abc import Iterator
from typing import Annotated, Literal

from yoke_server.bench.drivers.base import Offers
from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.spec import Spec


class Conditioning(Spec):
    """Settings of an input; the device offers some of each."""

    @property
    def supply_v(self) -> float | None:
        """The excitation, V; None where the input gives none."""
        return None

    @property
    def reach(self) -> float:
        """How far the signal (SI) goes from zero, either way."""
        return 10.0

    @property
    def steady(self) -> float | None:
        """How far a signal may move at rest, SI; None if the input does not say."""
        return None

    @property
    def range_words(self) -> str:
        return "the range"

    def settings(self, offers: Offers) -> Iterator[tuple[str, float, tuple[float, ...]]]:
        """Each setting by its field, with what the device offers of it."""
        yield from ()

    def lacks(self, offers: Offers) -> Lack | None:
        """What the device cannot do that is no choice of a few; None where it can all."""
        return None

    def zero_problem(self, signal: float) -> str:
        """Why a signal (SI) at rest cannot be a zero; empty where it can."""
        return ""


class BridgeConditioning(Conditioning):
    """Excitation and range of a bridge input; the device offers some of them.

    ``carrier_hz``: the excitation alternates so often; 0 is direct current. ``balance`` (V/V) is
    what the amplifier takes off the bridge's output before it converts it.
    """

    kind: Literal["bridge"] = "bridge"
    excitation_v: fields.Excitation = 5.0
    range_mv_v: fields.Range = 8.0
    carrier_hz: Annotated[float, fields.between(0, 1e5)] = 0.0
    balance: Annotated[float, fields.between(-0.5, 0.5)] = 0.0

    def balanced_by(self, more: float) -> "BridgeConditioning":
        """With so much more (V/V) taken off."""
        return self.model_copy(update={"balance": float(f"{self.balance + more:.9g}")})

    def lacks(self, offers: Offers) -> Lack | None:
        if abs(self.balance) <= (most := offers.max_balance):
            return None
        said = f"A balance of {self.balance * 1e3:.3f} mV/V is more than its device takes off"
        can = f"up to {most * 1e3:g} mV/V" if most else "nothing"
        return Lack(f"{said}: {can}.", "Check the bridge, or choose a wider range in Wire.")

    @property
    def supply_v(self) -> float:
        return self.excitation_v

    @property
    def reach(self) -> float:
        return self.range_mv_v * 1e-3

    @property
    def steady(self) -> float:
        return 0.01 * self.reach

    @property
    def range_words(self) -> str:
        return f"±{self.range_mv_v:g} mV/V"

    def settings(self, offers: Offers) -> Iterator[tuple[str, float, tuple[float, ...]]]:
        yield "excitation_v", self.excitation_v, offers.excitations_v
        yield "range_mv_v", self.range_mv_v, offers.ranges_mv_v
        yield "carrier_hz", self.carrier_hz, offers.carriers_hz

    def zero_problem(self, signal: float) -> str:
        at = signal * 1e3
        if abs(at) <= 0.5 * self.range_mv_v:
            return ""
        return (
            f"stands at {at:.3f} mV/V, over half its range: "
            "unload it, check the bridge, or choose a wider range in Wire."
        )


class FixedConditioning(Conditioning):
    """An input on which nothing can be set."""

    kind: Literal["fixed"] = "fixed"
