"""What stands in a report, as text ready to print; every number with its unit."""

import hashlib
import json
from datetime import datetime
from typing import Any

from yoke_server.calibrate.scaling import per_signal
from yoke_server.common.units import SIGNAL_UNITS, factor, from_si
from yoke_server.derive.kinds.base import Value
from yoke_server.derive.kinds.tension import TensionParameters
from yoke_server.record.models import Run
from yoke_server.record.queries import document_of, piece_of, specimen_of, streams_of
from yoke_server.report.models import Report
from yoke_server.wire.document import FrozenChannel, FrozenSetup

Row = tuple[str, str, str]


def fingerprint(report: Report, recipe: TensionParameters) -> str:
    """Changes when anything that the PDF shows changes."""
    run = report.run
    used = [
        run.seal, run.name, specimen_of(run), run.notes,
        recipe.fit_lower_pa, recipe.fit_upper_pa, recipe.offset,
        report.number, report.revision, report.title, report.remarks,
    ]  # fmt: skip
    return hashlib.sha256(json.dumps(used).encode()).hexdigest()


def result_rows(values: list[Value]) -> list[Row]:
    """(name and definition, value, unit) of each result; a dash where there is none."""
    return [(f"{v.symbol}, {v.name.lower()}, {v.method}", _figure(v), v.unit) for v in values]


def _figure(v: Value) -> str:
    return "–" if v.value is None else f"{from_si(v.value, v.unit):.{v.decimals}f}"


def channel_rows(setup: FrozenSetup) -> list[dict[str, str]]:
    return [_channel(c) for c in setup.channels]


def _channel(c: FrozenChannel) -> dict[str, str]:
    shunt = "–"
    if c.shunt_measured_mv_v is not None and c.shunt_expected_mv_v:
        error = (c.shunt_measured_mv_v / c.shunt_expected_mv_v - 1) * 100
        shunt = f"{c.shunt_expected_mv_v:.4f} / {c.shunt_measured_mv_v:.4f} ({error:+.2f} %)"
    unit = SIGNAL_UNITS[c.signal]
    return {
        "name": c.name,
        "input": f"{c.device_label}.{c.input_number}",
        "sensor": f"{c.sensor_name}, {c.sensor_serial}".replace("Ω", "ohm"),
        "scaling": scaling_words(c),
        "zero": f"{from_si(c.zero, unit):+.4f} {unit}" if c.zero is not None else "not zeroed",
        "shunt": shunt,
        "due": str(c.due_on or "no certificate"),
    }


def scaling_words(c: FrozenChannel) -> str:
    """What one unit of its signal is worth, near rest."""
    signal = SIGNAL_UNITS[c.signal]
    slope = per_signal(c) * factor(signal) / factor(c.unit)
    return f"{slope:.4g} {c.unit} per {signal}"


def moment(value: datetime | None) -> str:
    return f"{value:%Y-%m-%d %H:%M:%S} UTC" if value else "–"


def fields(report: Report) -> dict[str, Any]:
    """Everything the template needs but the figure and the results."""
    run: Run = report.run
    setup = document_of(run)
    measured = specimen_of(run)
    operator = run.operator
    streams = streams_of(run)
    return {
        "report": report,
        "project": run.setup.project,
        "run": run,
        "specimen": measured["specimen"],
        "operator": (operator.get_full_name() or operator.username) if operator else "–",
        "started": moment(run.started_at),
        "ended": moment(run.ended_at),
        "setup": setup,
        "version": run.revision.number,
        "streams": [
            f"{s.stream.device_label}: {s.samples} samples at {s.stream.rate_hz:g} Hz"
            for s in streams
        ],
        "piece": piece_of(run).sentence,
        "motion": setup.motion.sentence,
        "channels": channel_rows(setup),
        "gaps": [
            f"{s.stream.device_label} from {a:.2f} to {b:.2f} s" for s in streams for a, b in s.gaps
        ],
    }
