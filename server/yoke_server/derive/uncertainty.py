"""What results are uncertain by: the recipe computed again with each input a little off (GUM)."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from django.db.models import Prefetch
from yoke_core.errors import CoreError

from yoke_server.calibrate.reading_terms import ReadingTerm, terms_of
from yoke_server.calibrate.uncertainty import first_zeros
from yoke_server.common.http.problems import Problem
from yoke_server.derive.inputs import changed_readings, samples_of
from yoke_server.derive.kinds.base import Computed, ResultKind
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.record.queries import day_of, piece_of
from yoke_server.record.readings.definitions import readings_of
from yoke_server.sensors.models import Certificate, Sensor

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

MAX_SAMPLES = 4_000_000  # of a run whose results are computed again for each input


@dataclass(frozen=True, slots=True)
class ResultUncertainty:
    """U = k u of one result, SI; ``terms`` are the standard uncertainties that it comes of."""

    expanded: float
    factor: float
    terms: list[dict[str, object]]


@dataclass(frozen=True, slots=True)
class Uncertainties:
    """Of each result, in order; None where it is not known. ``lacks``: what is not in them."""

    of_results: list[ResultUncertainty | None] = field(default_factory=list)
    lacks: list[str] = field(default_factory=list)


def uncertainties(kind: ResultKind, run: Run, parameters: Spec, found: Computed) -> Uncertainties:
    """The uncertainties of a run's results, by what its channels tell of their readings."""
    inputs, lacks = _inputs(kind, run, parameters)
    if not inputs:
        return Uncertainties([None] * len(found.values), lacks)
    keys = {key for key, _ in inputs}
    if samples_of(run, keys) > MAX_SAMPLES:
        lacks.append("The run is too long for its results to be computed once more for each input.")
        return Uncertainties([None] * len(found.values), lacks)
    contributions = _contributions(kind, run, parameters, inputs, len(found.values))
    terms = [term for _, term in inputs]
    of_results = [
        None if v.value is None else _of_one(terms, contributions[:, i])
        for i, v in enumerate(found.values)
    ]
    return Uncertainties(of_results, lacks)


Input = tuple[str, ReadingTerm]  # a channel's key, and what its readings are uncertain by


def _inputs(kind: ResultKind, run: Run, parameters: Spec) -> tuple[list[Input], list[str]]:
    """What the results depend on, and in words what is not known of it."""
    readings = readings_of(run)
    keys = kind.channels(parameters, readings.setup)
    serials = [c.sensor_serial for k, c in readings.measured.items() if k in keys]
    certificates = Prefetch("certificates", Certificate.objects.defer("file"))
    found = Sensor.objects.filter(serial__in=serials).prefetch_related(certificates)
    sensors = {s.serial: s for s in found}
    day = day_of(run)
    zeros = first_zeros(run.setup_id, day)
    inputs: list[Input] = []
    lacks: list[str] = []
    for key in keys:
        channel = readings.measured.get(key)
        if channel is None or channel.sensor_serial not in sensors:
            name = shown.name if (shown := readings.channel(key)) else key
            lacks.append(f"{name} has no instrument of its own: its readings are taken as exact.")
            continue
        terms, why = terms_of(channel, sensors[channel.sensor_serial], zeros.get(key), day)
        inputs += [(key, term) for term in terms]
        lacks += why
    if kind.uses_piece and piece_of(run).area_m2 is not None:
        lacks.append("The specimen's size is taken as exact.")
    return inputs, list(dict.fromkeys(lacks))


def _contributions(
    kind: ResultKind, run: Run, parameters: Spec, inputs: list[Input], count: int
) -> "Array":
    import numpy as np
    from yoke_core.uncertainty.numeric import numeric_contributions

    def evaluate(place: int, by: float) -> "Array":
        key, term = inputs[place]
        with changed_readings({key: (1 + by * term.gain, by * term.offset)}):
            return _values(kind, run, parameters, count)

    return np.reshape(numeric_contributions(len(inputs), evaluate), (len(inputs), count))


def _values(kind: ResultKind, run: Run, parameters: Any, count: int) -> "Array":
    """The results, NaN where there is none."""
    import numpy as np

    try:
        values = kind.compute(run, parameters).values
    except (Problem, CoreError):
        return np.full(count, np.nan)
    return np.array([np.nan if v.value is None else v.value for v in values])


def _of_one(terms: list[ReadingTerm], contributions: "Array") -> ResultUncertainty | None:
    import numpy as np
    from yoke_core.uncertainty.numeric import budget_of_contributions

    if not np.isfinite(contributions).all():
        return None
    budget = budget_of_contributions([t.at(1.0) for t in terms], contributions)
    return ResultUncertainty(
        budget.expanded(),
        budget.coverage_factor(),
        [{"name": t.name, "standard": abs(t.contribution)} for t in budget.terms],
    )
