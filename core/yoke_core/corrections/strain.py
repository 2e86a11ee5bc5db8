"""Corrections of a strain gauge's reading, as signals of a graph."""

from collections.abc import Sequence

from yoke_core.errors import SignalError
from yoke_core.rosette.state import CALIBRATION_POISSON
from yoke_core.signals.node import Node
from yoke_core.signals.nodes.pointwise import Constant, Pointwise

CELSIUS = 273.15  # K
SHEET_GAUGE_FACTOR = 2.0  # with which makers measure thermal output
MAX_POWERS = 6


def _product(factor: float, node: Node) -> Node:
    return Pointwise("multiply", (Constant(factor), node))


def thermal_output(
    strain: Node, temperature: Node, coefficients: Sequence[float], gauge_factor: float
) -> Node:
    """A strain without what the temperature alone makes of it.

    Parameters
    ----------
    strain : Node, m/m
        As measured with ``gauge_factor``.
    temperature : Node, K
        Of the gauge.
    coefficients : sequence of float
        Of the polynomial of a gauge's data sheet, from the constant on: thermal output (m/m, for
        a gauge factor of 2.0) over temperature in °C.
    gauge_factor : float

    Returns
    -------
    Node, m/m

    Raises
    ------
    SignalError
        For no coefficients, or more than six.

    Notes
    -----
    strain - output(T) * 2.0 / gauge_factor. Source: VDI/VDE 2635, part 1.

    Examples
    --------
    >>> from yoke_core.signals.graph import Measured, SignalGraph, compute
    >>> node = thermal_output(Measured("e"), Measured("T"), [-20e-6, 1e-6], gauge_factor=2.0)
    >>> readings = {"e": [100e-6], "T": [303.15]}  # 30 °C: 10 um/m of it are apparent
    >>> round(float(compute(SignalGraph({"x": node}), readings, 1.0)["x"][0]) * 1e6, 6)
    90.0
    """
    if not 1 <= len(coefficients) <= MAX_POWERS:
        raise SignalError(
            "coefficients",
            f"A thermal output has 1 to {MAX_POWERS} coefficients, not {len(coefficients)}.",
            "Give those of the gauge's data sheet, the constant first.",
        )
    celsius = Pointwise("subtract", (temperature, Constant(CELSIUS)))
    output: Node = Constant(coefficients[-1])
    for coefficient in reversed(coefficients[:-1]):
        output = Pointwise("add", (Pointwise("multiply", (output, celsius)), Constant(coefficient)))
    return Pointwise("subtract", (strain, _product(SHEET_GAUGE_FACTOR / gauge_factor, output)))


def gauge_factor_at_temperature(
    strain: Node, temperature: Node, per_kelvin: float, reference_k: float = CELSIUS + 23.0
) -> Node:
    """A strain with the gauge factor that the gauge has at its temperature.

    Parameters
    ----------
    strain : Node, m/m
        With the gauge factor at the reference temperature.
    temperature : Node, K
    per_kelvin : float, 1/K
        Change of the gauge factor as a share of it.
    reference_k : float, K
        Where the stated gauge factor holds; 23 °C unless the data sheet says otherwise.

    Returns
    -------
    Node, m/m

    Notes
    -----
    strain / (1 + per_kelvin * (T - reference)). Source: VDI/VDE 2635, part 1.

    Examples
    --------
    >>> from yoke_core.signals.graph import Measured, SignalGraph, compute
    >>> node = gauge_factor_at_temperature(Measured("e"), Measured("T"), 1e-4)
    >>> readings = {"e": [1010e-6], "T": [396.15]}  # 123 °C: the factor is 1 % higher
    >>> round(float(compute(SignalGraph({"x": node}), readings, 1.0)["x"][0]) * 1e6, 6)
    1000.0
    """
    change = _product(per_kelvin, Pointwise("subtract", (temperature, Constant(reference_k))))
    return Pointwise("divide", (strain, Pointwise("add", (Constant(1.0), change))))


def transverse_sensitivity(strain: Node, sensitivity: float, across: float) -> Node:
    """A single grid's strain without what the strain across it adds.

    Parameters
    ----------
    strain : Node, m/m
        As read with the maker's gauge factor.
    sensitivity : float
        Transverse sensitivity as a share, 0.004 for 0.4 %.
    across : float
        Strain across the grid over the strain along it; minus Poisson's ratio of the part in
        uniaxial stress along the grid.

    Returns
    -------
    Node, m/m

    Notes
    -----
    strain * transverse_factor(K, across). A rosette corrects its three grids together
    (`yoke_core.rosette.state.Rosette`).

    Examples
    --------
    >>> from yoke_core.signals.graph import Measured, SignalGraph, compute
    >>> node = transverse_sensitivity(Measured("e"), 0.01, across=-0.285)
    >>> float(compute(SignalGraph({"x": node}), {"e": [1e-3]}, 1.0)["x"][0])
    0.001
    """
    return _product(transverse_factor(sensitivity, across), strain)


def transverse_factor(sensitivity: float, across: float) -> float:
    """What a single grid's strain is multiplied by for its transverse sensitivity.

    Parameters
    ----------
    sensitivity : float
        Transverse sensitivity K as a share, 0.004 for 0.4 %.
    across : float
        Strain across the grid over the strain along it.

    Returns
    -------
    float

    Notes
    -----
    (1 - 0.285 K) / (1 + K * across), the maker's gauge factor being measured on a bar of
    Poisson's ratio 0.285. Source: Hoffmann, An Introduction to Measurements using Strain Gages.

    Examples
    --------
    >>> transverse_factor(0.01, across=-0.285)
    1.0
    """
    return (1 - CALIBRATION_POISSON * sensitivity) / (1 + sensitivity * across)
