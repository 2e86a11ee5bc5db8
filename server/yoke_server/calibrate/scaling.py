"""A channel's columns as the core's scaling; one place for zero, sign and bridge factor."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Protocol

from yoke_core.bridge.circuit import Circuit, bridge_factor
from yoke_core.errors import ScalingError

if TYPE_CHECKING:
    from numpy.typing import ArrayLike
    from yoke_core.bridge.scaling import Array, Scaling


class ScalingFields(Protocol):
    """What both a channel's row and a frozen channel have."""

    @property
    def scaling_kind(self) -> str: ...
    @property
    def arrangement(self) -> str: ...
    @property
    def gauge_factor(self) -> float | None: ...
    @property
    def poisson_ratio(self) -> float | None: ...
    @property
    def rated_output_mv_v(self) -> float | None: ...
    @property
    def capacity(self) -> float | None: ...
    @property
    def point_1_mv_v(self) -> float | None: ...
    @property
    def point_1_value(self) -> float | None: ...
    @property
    def point_2_mv_v(self) -> float | None: ...
    @property
    def point_2_value(self) -> float | None: ...


class ZeroedFields(ScalingFields, Protocol):
    """What a frozen channel has beyond that: its sign, zero and tare."""

    @property
    def reversed(self) -> bool: ...
    @property
    def zero_mv_v(self) -> float | None: ...
    @property
    def tare(self) -> float | None: ...


def _given(channel: ScalingFields, field: str) -> float:
    value = getattr(channel, field)
    if value is None:
        words = field.replace("_mv_v", "").replace("_", " ")
        raise ScalingError(field, f"The scaling lacks its {words}.", f"Give the {words}.")
    return float(value)


def scaling_of(channel: ScalingFields) -> "Scaling":
    """The core's scaling; raises `ScalingError` naming the column at fault."""
    from yoke_core.bridge import scaling as core

    if channel.scaling_kind == "strain":
        circuit = Circuit(channel.arrangement)
        poisson = 0.3 if channel.poisson_ratio is None else channel.poisson_ratio
        return core.StrainScaling(
            _given(channel, "gauge_factor"),
            bridge_factor(circuit, poisson),
            exact_quarter=circuit is Circuit.QUARTER,
        )
    if channel.scaling_kind == "rated_output":
        return core.RatedOutputScaling(
            _given(channel, "rated_output_mv_v") * 1e-3, _given(channel, "capacity")
        )
    return core.TwoPointScaling(
        _given(channel, "point_1_mv_v") * 1e-3,
        _given(channel, "point_1_value"),
        _given(channel, "point_2_mv_v") * 1e-3,
        _given(channel, "point_2_value"),
    )


def to_quantity(channel: ZeroedFields, ratio: "ArrayLike") -> "Array":
    """Raw output ratios (V/V) as the channel's quantity in SI: less the zero, with its sign,
    less the tare."""
    import numpy as np

    zeroed = np.asarray(ratio, dtype=float) - (channel.zero_mv_v or 0.0) * 1e-3
    scaled = scaling_of(channel).apply(-zeroed if channel.reversed else zeroed)
    return scaled - channel.tare if channel.tare else scaled


def per_mv_v(channel: ZeroedFields) -> float:
    """Quantity per 1 mV/V near zero, for display."""
    low, high = to_quantity(channel, [0.0, 1e-6])
    return float(high - low) * 1e3


class LiveScaling:
    """All channels' scalings in one array operation, for the recorder.

    quantity = base + slope * z / (1 - 2 z exact) with z = sign * (ratio - zero); gives what
    `to_quantity` gives channel by channel.
    """

    def __init__(self, channels: "Sequence[ZeroedFields]") -> None:
        import numpy as np
        from yoke_core.bridge.scaling import StrainScaling

        scalings = [scaling_of(c) for c in channels]
        exact = [isinstance(s, StrainScaling) and s.exact_quarter for s in scalings]
        base = np.array([float(s.apply(0.0)) for s in scalings])
        one = np.array([float(s.apply(1e-3)) for s in scalings])
        self._exact = np.array(exact, dtype=float)
        self._base = base - np.array([c.tare or 0.0 for c in channels])
        self._slope = (one - base) * (1 - 2e-3 * self._exact) / 1e-3
        self.steepness = np.abs(self._slope)  # of the quantity by signal, near zero
        self._sign = np.array([-1.0 if c.reversed else 1.0 for c in channels])
        self._zero = np.array([(c.zero_mv_v or 0.0) * 1e-3 for c in channels])

    def apply(self, ratio: "Array") -> "Array":
        """Ratios of shape (channels, n) in SI; what clipped stays infinite."""
        import numpy as np

        z = (ratio - self._zero[:, None]) * self._sign[:, None]
        linear = z * self._slope[:, None]
        bend = 2 * np.where(np.isfinite(z), z, 0.0) * self._exact[:, None]
        return self._base[:, None] + linear / (1 - bend)
