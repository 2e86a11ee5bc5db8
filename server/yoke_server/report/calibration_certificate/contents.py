"""What stands on the certificate of a calibration."""

from typing import Any

from yoke_server.calibrate.calibrations.queries import calibration_of
from yoke_server.calibrate.calibrations.schemas import CalibrationOut, EvaluationOut, LoadOut
from yoke_server.calibrate.models import Calibration
from yoke_server.common.units import SIGNAL_UNITS, from_si


def contents(row: Calibration) -> dict[str, object]:
    """Of an accepted calibration; all numbers as they are printed."""
    shown = calibration_of(row.pk)
    channel = row.channel
    unit, signal = channel.unit, SIGNAL_UNITS[channel.signal]
    found = shown.evaluation
    assert found is not None
    assert row.certificate is not None
    return {
        "number": row.certificate.number,
        "calibrated_on": row.certificate.calibrated_on,
        "due_on": row.certificate.due_on,
        "sensor": row.sensor,
        "place": f"{channel.device_label}.{channel.input_number}, serial {channel.device_serial}",
        "bench": row.setup.bench.name,
        "reference": shown.reference,
        "reference_percent": _percent(shown.reference_uncertainty, 4),
        "unit": unit,
        "signal": signal,
        "curve": _curve(row),
        "loads": [_load(one, unit, signal, one is found.loads[-1]) for one in found.loads],
        "figures": _figures(found),
        "classification": found.classification,
        "from_load": _number(found.classification.from_load, unit) if found.classification else "",
        "expanded": _percent(found.expanded, 3),
        "budget": _budget(found),
        "series": _series(shown),
        "left_out": [(s.number + 1, s.left_out) for s in shown.steps if s.left_out],
        "begun_by": row.begun_by.get_full_name() or row.begun_by.role,
        "accepted_by": row.ended_by.get_full_name() or row.ended_by.role if row.ended_by else "",
    }


def _curve(row: Calibration) -> str:
    order = ("straight line", "polynomial of order 2", "polynomial of order 3")[row.plan.order - 1]
    return f"{order}{' through zero' if row.plan.through_zero else ''}, least squares"


def _load(one: LoadOut, unit: str, signal: str, largest: bool) -> dict[str, str]:
    shares = {
        "repeatability": one.repeatability,
        "reproducibility": one.reproducibility,
        "interpolation": one.interpolation,
        "reversibility": one.reversibility,
    }
    return {
        "load": _number(one.load, unit),
        "deflection": f"{from_si(one.deflection, signal):.6f}",
        "expanded": _percent(one.expanded, 3),
        **{name: _percent(share, 3) for name, share in shares.items()},
        **({"reversibility": "–"} if largest else {}),  # loads fall from it
    }


def _figures(found: EvaluationOut) -> list[tuple[str, str]]:
    return [
        ("Non-linearity", _percent(found.nonlinearity, 3)),
        ("Hysteresis", _percent(found.hysteresis, 3)),
        ("Zero return", _percent(found.zero_return, 3)),
        ("Creep, 30 s to 300 s", _percent(found.creep, 3)),
    ]


def _budget(found: EvaluationOut) -> list[dict[str, Any]]:
    """The terms at the largest load."""
    return [
        {
            "name": t.name,
            "share": _percent(t.share, 4),
            "distribution": t.distribution,
            "dof": "∞" if t.dof is None else f"{t.dof:.0f}",
        }
        for t in found.loads[-1].terms
    ]


def _series(shown: CalibrationOut) -> str:
    turned = ", ".join(f"{r:g}°" for r in shown.plan.rotations)
    falling = "rising and falling loads" if shown.plan.falling else "rising loads"
    series, preloads = len(shown.plan.rotations), shown.plan.preloads
    made = f"{preloads} preload" + "s" * (preloads != 1)
    return f"{series} series of {falling}, turned to {turned}; {made}"


def _percent(share: float | None, decimals: int) -> str:
    return "not tried" if share is None else f"{share * 100:.{decimals}f}".replace("-", "−")


def _number(value: float, unit: str) -> str:
    return f"{from_si(value, unit):.6g}".replace("-", "−")
