"""Bridges as resistor networks, solved node by node (Kirchhoff's current law)."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

OPEN = 1e12  # ohm, a broken wire


class Wiring(StrEnum):
    """How a sensor is wired to its input."""

    FULL_4 = "full, 4-wire"
    FULL_6 = "full, 6-wire"
    QUARTER_3 = "quarter, 3-wire"
    QUARTER_2 = "quarter, 2-wire"
    HALF_3 = "half, 3-wire"
    HALF_5 = "half, 5-wire"
    POTENTIOMETER = "potentiometer"
    INDUCTIVE = "inductive half bridge"
    NOTHING = "nothing plugged in"


@dataclass(frozen=True, slots=True)
class Cable:
    """Resistance of one core from plug to sensor, ohm."""

    core: float = 0.0


def node_potentials(
    branches: list[tuple[str, str, Array | float]], held: dict[str, float], size: int
) -> dict[str, Array]:
    """Potentials of all nodes for ``size`` instants at once.

    branches: (node, node, resistance in ohm, scalar or shape (size,)); held: volts.
    """
    names = sorted({n for a, b, _ in branches for n in (a, b)} - held.keys())
    index = {name: i for i, name in enumerate(names)}
    even = np.zeros((len(names), len(names) + 1))  # the last column: currents from what is held
    varying = np.zeros((size, *even.shape))
    for a, b, resistance in branches:
        into = even if isinstance(resistance, float | int) else varying
        conductance = 1.0 / resistance
        for here, there in ((a, b), (b, a)):
            if here not in index:
                continue
            i = index[here]
            into[..., i, i] += conductance
            if there in index:
                into[..., i, index[there]] -= conductance
            else:
                into[..., i, -1] += conductance * held[there]
    matrix = varying + even
    potentials = np.linalg.solve(matrix[..., :-1], matrix[..., -1:])
    solved = potentials[..., 0].astype(np.float64, copy=False)
    result: dict[str, Array] = {name: solved[:, i] for name, i in index.items()}
    result.update({name: np.full(size, volts) for name, volts in held.items()})
    return result


def full_bridge_ratio(arms: Array, cable: Cable, sensed: bool, shunt: float | None = None) -> Array:
    """Output over excitation (V/V) of a bridge with all four arms in the sensor.

    arms: shape (n, 4), ohm, counter-clockwise from the upper left. With sense wires the
    excitation counts at the sensor, without them at the amplifier. A shunt lies in the
    amplifier from its signal - to its excitation - pin, across arm 2 and its cores.
    """
    core = max(cable.core, 1e-5)  # keeps the equations well-conditioned
    branches: list[tuple[str, str, Array | float]] = [
        ("source", "top", core),
        ("top", "left", arms[:, 0]),
        ("left", "bottom", arms[:, 1]),
        ("right", "bottom", arms[:, 2]),
        ("top", "right", arms[:, 3]),
        ("bottom", "ground", core),
    ]
    if shunt:
        branches += [("left", "pin", core), ("pin", "ground", shunt)]
    v = node_potentials(branches, {"source": 1.0, "ground": 0.0}, len(arms))
    excitation = v["top"] - v["bottom"] if sensed else 1.0
    return np.asarray((v["right"] - v["pin" if shunt else "left"]) / excitation)


def quarter_bridge_ratio(
    grid: Array, completion: float, cable: Cable, shunt: float | None = None, three: bool = True
) -> Array:
    """Output over excitation (V/V) of a quarter bridge.

    The grid is arm 1; one core carries its current from E+, one carries it on to the
    completion resistor in the amplifier (arm 2). With ``three`` wires one without current
    takes the signal from the pad; with two it is taken at the amplifier's pin. A shunt lies
    across the completion, inside the amplifier.
    """
    core = max(cable.core, 1e-5)  # keeps the equations well-conditioned
    branches: list[tuple[str, str, Array | float]] = [
        ("source", "grid", core),
        ("grid", "pad", grid),
        ("pad", "pin", core),
        ("pin", "ground", completion),
        ("source", "right", 1000.0),
        ("right", "ground", 1000.0),
    ]
    if shunt:
        branches.append(("pin", "ground", shunt))
    v = node_potentials(branches, {"source": 1.0, "ground": 0.0}, len(grid))
    return np.asarray(v["right"] - v["pad" if three else "pin"])


def half_bridge_ratio(
    first: Array, second: Array, cable: Cable, sensed: bool, shunt: float | None = None
) -> Array:
    """Output over excitation (V/V) of two grids in series, completed in the amplifier.

    The grids are arms 1 and 2, from E+ to E-; a core takes the signal from their joint. The
    other half is the amplifier's: two like resistors between its excitation pins, or between
    the sense cores where there are some. A shunt lies from its signal - to its excitation - pin.
    """
    core = max(cable.core, 1e-5)  # keeps the equations well-conditioned
    branches: list[tuple[str, str, Array | float]] = [
        ("source", "top", core),
        ("top", "joint", first),
        ("joint", "bottom", second),
        ("bottom", "ground", core),
    ]
    if shunt:
        branches += [("joint", "pin", core), ("pin", "ground", shunt)]
    v = node_potentials(branches, {"source": 1.0, "ground": 0.0}, len(first))
    high, low = (v["top"], v["bottom"]) if sensed else (1.0, 0.0)
    return np.asarray(((high + low) / 2 - v["pin" if shunt else "joint"]) / (high - low))
