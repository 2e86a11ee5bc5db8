"""The made-up library of the demo: what a small lab has on its shelves, with certificates."""

from datetime import date, timedelta

from yoke_server.sensors.models import Certificate, Sensor
from yoke_server.sensors.record import from_record

GAUGE = {
    "kind": "strain gauge",
    "circuit": "quarter",
    "wires": "3",
    "lead_length": "6",
    "grid_area": "16.8",
}
ROSETTE = {"kind": "rosette", "wires": "3", "lead_length": "6", "grid_area": "7.5"}
CELL = {"kind": "load cell", "circuit": "full axial", "wires": "6", "resistance": "350"}
TORQUE = {"kind": "torque sensor", "circuit": "full torsion", "wires": "6", "resistance": "350"}


def _cell(serial: str, capacity: str, rated: str, place: str) -> dict[str, str]:
    return CELL | {
        "name": f"Load cell {capacity}",
        "serial": serial,
        "capacity": capacity,
        "rated_output": rated,
        "place": place,
    }


def _gauge(serial: str, ohm: str, factor: str, more: str = "") -> dict[str, str]:
    name = f"Gauge {ohm} Ω, k {factor}{more}"
    return GAUGE | {
        "name": name,
        "serial": serial,
        "resistance": ohm,
        "gauge_factor": factor,
        "place": "drawer 2",
    }


def _loop(kind: str, serial: str, low: str, high: str, place: str) -> dict[str, str]:
    return {
        "kind": kind,
        "connection": "4-20 mA",
        "name": f"{kind.capitalize()} {low} to {high}",
        "serial": serial,
        "at_4_ma": low,
        "at_20_ma": high,
        "place": place,
    }


RECORDS: list[dict[str, str]] = [
    {
        "kind": "displacement", "connection": "Potentiometer", "name": "Wiper 100 mm, 5 kΩ",
        "serial": "PO-0311", "resistance": "5000", "capacity": "100 mm", "place": "shelf 4",
    },
    {
        "kind": "displacement", "connection": "Inductive half bridge",
        "name": "Core ±10 mm, 80 mV/V", "serial": "LV-0127", "resistance": "350",
        "rated_output": "80", "capacity": "10 mm", "place": "shelf 4",
    },
    {
        "kind": "speed pulses", "connection": "Pulses", "name": "Pick-up, 60 teeth",
        "serial": "PU-0042", "pulses_per_turn": "60", "place": "shelf 3",
    },
    {
        "kind": "displacement", "connection": "Numbers", "name": "Dial gauge 60 mm, digital",
        "serial": "DG-40231", "shown_in": "mm", "place": "bench 1",
    },
    *(_gauge(f"lot 0818-{n:02}", "350", "2.08") for n in range(1, 13)),
    _gauge("lot 0744-3", "120", "2.05"), _gauge("lot 0744-4", "120", "2.05"),
    _gauge("lot 0911-1", "1000", "2.10", ", low power"),
    _gauge("lot 0911-2", "1000", "2.10", ", low power"),
    GAUGE | {
        "name": "Poisson pair 350 Ω, k 2.10", "serial": "lot 0914-1", "circuit": "half poisson",
        "resistance": "350", "gauge_factor": "2.10", "place": "drawer 3",
    },
    *(
        ROSETTE | {
            "name": f"Rosette {angles}, 350 Ω", "serial": f"lot 0819-{n}",
            "angles": angles.replace("/", " "), "resistance": "350", "gauge_factor": "2.08",
            "place": "drawer 4",
        }
        for n, angles in enumerate(("0/45/90", "0/45/90", "0/60/120"), start=1)
    ),
    _cell("LC-0075", "0.5 kN", "2.0030", "shelf 1"), _cell("LC-0440", "1 kN", "1.5003", "shelf 1"),
    _cell("LC-0912", "10 kN", "2.0011", "shelf 1"), _cell("LC-1544", "5 kN", "2.0012", "shelf 1"),
    _cell("LC-2208", "25 kN", "1.9987", "shelf 2"), _cell("LC-2610", "25 kN", "2.0021", "shelf 2"),
    *(
        TORQUE | {
            "name": f"Torque sensor {capacity}", "serial": serial, "capacity": capacity,
            "rated_output": rated, "place": "shelf 3",
        }
        for serial, capacity, rated in (
            ("TQ-0107", "50 N m", "1.4991"), ("TQ-0203", "20 N m", "1.0003"),
            ("TQ-0415", "200 N m", "1.5002"), ("TQ-0522", "500 N m", "1.5010"),
        )
    ),
    _loop("displacement", "DT-0502", "0 mm", "25 mm", "shelf 4"),
    _loop("displacement", "DT-0511", "0 mm", "100 mm", "shelf 4"),
    _loop("pressure", "PT-0250", "0 bar", "16 bar", "shelf 4"),
    _loop("angle", "AN-0031", "0", "90", "shelf 5"),
    {
        "kind": "extensometer", "name": "Clip-on extensometer 25 mm", "serial": "EX-0407",
        "circuit": "full bending", "wires": "6", "resistance": "350", "rated_output": "1.9990",
        "capacity": "5 mm", "place": "shelf 5",
    },
    *(
        {
            "kind": "acceleration", "name": "Acceleration ±50 g, voltage", "serial": serial,
            "connection": "Voltage", "full_output": "2", "capacity": "50 g", "place": "shelf 5",
        }
        for serial in ("AC-0050", "AC-0051")
    ),
    {
        "kind": "temperature", "name": "Pt100, 4-wire", "serial": "TE-0118", "nominal": "100",
        "wires": "4", "place": "drawer 5",
    },
]  # fmt: skip
# Serial, number of the newest certificate, days since, days until it is due, values before it.
YEAR = 365
CERTIFIED: list[tuple[str, str, int, int, tuple[float, ...]]] = [
    ("LC-2207", "26-0962", 257, 108, (1.9991, 1.9993, 1.9994, 1.9997, 1.9998, 2.0000)),
    ("LC-1180", "25-4302", 402, -37, (2.0002, 2.0004)),
    ("LC-1192", "26-1307", 218, 147, (1.9998, 2.0000)),
    ("LC-0075", "26-2188", 149, 216, (2.0030,)),
    ("LC-0440", "25-4410", 351, 14, (1.5003,)),
    ("LC-0912", "26-1630", 204, 526, (2.0011,)),
    ("LC-1544", "26-0507", 290, 75, (2.0012,)),
    ("LC-2208", "25-3877", 412, -41, (1.9980, 1.9987)),
    ("LC-2610", "26-2741", 97, 268, (2.0021,)),
    ("TQ-0107", "25-4478", 344, 21, (1.4991,)),
    ("TQ-0203", "26-1455", 218, 147, (1.0003,)),
    ("TQ-0415", "26-2890", 85, 280, (1.5002,)),
    ("TQ-0522", "25-3716", 422, -51, (1.5010,)),
    ("EX-0351", "26-1880", 177, 188, (1.9996, 1.9999, 2.0000)),
    ("DT-0419", "26-1702", 199, 166, ()),
    ("PT-1731", "26-0411", 295, 70, ()),
    ("DT-0502", "26-2014", 160, 205, ()),
    ("PT-0250", "25-3902", 377, -12, ()),
]


EXPANDED = 2e-3  # of the value, k = 2: what a works calibration states


def load(today: date) -> None:
    """Fill the shelves; loading again changes nothing."""
    for given in RECORDS:
        read = from_record(given)
        serial = read.values["serial"]
        Sensor.objects.get_or_create(serial=serial, defaults={**read.values, "spec": read.spec})
    for serial, number, since, until, rated in CERTIFIED:
        sensor = Sensor.objects.filter(serial=serial).first()
        if sensor and not sensor.certificates.exists():
            _certify(sensor, number, today - timedelta(since), today + timedelta(until), rated)


def _certify(sensor: Sensor, number: str, last: date, due: date, rated: tuple[float, ...]) -> None:
    """The newest certificate with those of the years before it."""
    values = rated or (None,)
    for back, value in zip(range(len(values) - 1, -1, -1), values, strict=True):
        year, _, count = number.partition("-")
        Certificate.objects.create(
            sensor=sensor,
            number=f"{int(year) - back}-{count}",
            calibrated_on=last - timedelta(YEAR * back),
            due_on=due - timedelta(YEAR * back),
            rated_output=None if value is None else value * 1e-3,
            expanded=EXPANDED,
        )
    sensor.calibrated_on, sensor.due_on = last, due
    sensor.save(update_fields=["calibrated_on", "due_on"])
