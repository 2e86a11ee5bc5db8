"""Fields that only sensors with a bridge have."""

from yoke_core.bridge.circuit import Circuit

from yoke_server.common.http.number_input import InvalidInput, read_number
from yoke_server.common.units import factor
from yoke_server.kinds.text_fields import MV_V, Field, figure, tidy

CIRCUITS = tuple(c.value.replace("_", " ") for c in Circuit)


def _read_circuit(text: str, quantity: str) -> str:
    wanted = text.strip().lower().replace(" ", "_").replace("-", "_")
    if wanted not in tuple(Circuit):
        raise InvalidInput(f"there is no circuit “{text[:40]}”: one of {', '.join(CIRCUITS)}")
    return wanted


def _read_angles(text: str, quantity: str) -> list[float]:
    parts = text.replace("°", " ").replace("/", " ").replace(";", " ").split()
    return [read_number(p, "").value * factor("°") for p in parts]


CIRCUIT = Field(
    "circuit",
    "Circuit",
    "circuit",
    _read_circuit,
    lambda v, q: str(v).replace("_", " "),
    choices=CIRCUITS,
)
GAUGE_FACTOR = figure("gauge_factor", "Gauge factor", "gauge_factor", "")
TOLERANCE = Field(
    "gauge_factor_tolerance",
    "Gauge factor within ±",
    "gauge_factor_tolerance",
    lambda text, q: tidy(read_number(text, "%").value / 100),
    lambda v, q: f"{v * 100:.6g}",
    "%",
    optional=True,
)
GRID_AREA = Field(
    "grid_area",
    "Grid area",
    "grid_area_m2",
    lambda text, q: tidy(read_number(text, "mm²").value * 1e-6),
    lambda v, q: f"{v * 1e6:.6g}",
    "mm²",
    optional=True,
)
LEAD = figure("lead_length", "Lead", "lead_length_m", "m")
ANGLES = Field(
    "angles",
    "Angles",
    "angles",
    _read_angles,
    lambda v, q: " ".join(f"{a / factor('°'):.6g}" for a in v),
    "°",
)
AT_REST = figure("at_rest", "Output without load", "at_rest", MV_V, optional=True)
