"""Self-heating of an excited strain gauge, and the heat that the part under it can carry off."""

from dataclasses import dataclass
from enum import StrEnum

from yoke_core.checks import positive


class Substrate(StrEnum):
    """What a gauge is bonded to, by how it carries heat off."""

    ALUMINIUM = "aluminium"
    STEEL = "steel"
    STAINLESS = "stainless steel"
    TITANIUM = "titanium"
    COMPOSITE = "fibre composite"
    PLASTIC = "plastic"


# W/m² of grid that leave no drift to speak of in a measurement of minutes: the middle of what
# makers of gauges give for static measurement on thick parts of these materials.
CARRIES: dict[Substrate, float] = {
    Substrate.ALUMINIUM: 8e3,
    Substrate.STEEL: 3e3,
    Substrate.STAINLESS: 1.5e3,
    Substrate.TITANIUM: 1.5e3,
    Substrate.COMPOSITE: 400.0,
    Substrate.PLASTIC: 50.0,
}


def heat_density(excitation: float, resistance: float, area: float) -> float:
    """Power of an excited grid over its area.

    Parameters
    ----------
    excitation : float, V, above zero
        Across the bridge; half of it lies across each arm of equal resistance.
    resistance : float, ohm, above zero
        Of the grid.
    area : float, m^2, above zero
        Of the grid.

    Returns
    -------
    float, W/m^2
        U^2 / (4 R A).

    Raises
    ------
    CoreError
        Naming the argument that is not above zero.

    Examples
    --------
    >>> round(heat_density(5.0, 350.0, 16e-6))
    1116
    """
    positive("excitation", excitation)
    positive("resistance", resistance)
    positive("area", area)
    return excitation**2 / (4 * resistance * area)


@dataclass(frozen=True, slots=True)
class Heating:
    """``best_v`` is the highest of the offered excitations that the part carries; 0: none."""

    density_w_m2: float
    carries_w_m2: float
    best_v: float

    @property
    def passed(self) -> bool:
        return self.density_w_m2 <= self.carries_w_m2


def heating(
    excitation: float, resistance: float, area: float, ground: Substrate, offered: tuple[float, ...]
) -> Heating:
    """Self-heating of a grid on a part, and what to excite it with.

    Parameters
    ----------
    excitation, resistance, area : float
        As in `heat_density`.
    ground : Substrate
        What the grid is bonded to.
    offered : tuple of float, V
        Excitations that the amplifier offers.

    Returns
    -------
    Heating
        ``best_v`` is the highest of those offered that the part carries; 0 where it carries none.

    Raises
    ------
    CoreError
        Naming the argument that is not above zero.

    Examples
    --------
    >>> heating(5.0, 350.0, 16e-6, Substrate.PLASTIC, (0.5, 1.0, 2.5, 5.0)).best_v
    1.0
    """
    carries = CARRIES[ground]
    fitting = [v for v in offered if heat_density(v, resistance, area) <= carries]
    return Heating(heat_density(excitation, resistance, area), carries, max(fitting, default=0.0))
