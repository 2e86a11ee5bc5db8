"""Cycles of a channel by rainflow, and the life that they leave."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from yoke_server.common.http.problems import Problem
from yoke_server.derive.inputs import channel_of, clipped_note, in_pieces, setup_of
from yoke_server.derive.kinds.base import Column, Columns, Computed, Offer, ResultKind, Value
from yoke_server.derive.kinds.cycles.spec import CyclesDetails, CyclesParameters
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.readable import ReadableChannel, by_key, readable_channels

if TYPE_CHECKING:
    from yoke_core.fatigue.life import BasquinCurve
    from yoke_core.fatigue.rainflow import Cycles as CoreCycles
    from yoke_core.fatigue.rainflow import RangeMeanMatrix

CLASSES = 16  # of the matrix that is shown, along the largest range
SHOWN_POINTS = 4000
AT_ONCE = 1 << 20  # turning points that are counted together
CLAUSE = "ASTM E1049-85 (2017), 5.4.4"


COUNTED = ("strain", "force", "stress")  # quantities of which stress comes


class CyclesKind(ResultKind):
    """Turning points, rainflow, damage and life of one channel."""

    engine: ClassVar[int] = 2  # 1 rounded to 256 levels
    parameters: ClassVar[type[Spec]] = CyclesParameters
    details: ClassVar[type[Spec]] = CyclesDetails

    def offers(self, setup: FrozenSetup) -> list[Offer]:
        """One offer a channel, none of them suggested: the channel is a person's choice."""
        return [
            Offer(f"Cycles of {c.name}", CyclesParameters(channel=c.key))
            for c in readable_channels(setup)
            if c.quantity in COUNTED
        ]

    def subject(self, parameters: Any, setup: FrozenSetup) -> str:
        found = by_key(readable_channels(setup), parameters.channel)
        return found.name if found else ""

    def channels(self, parameters: Any, setup: FrozenSetup) -> list[str]:
        return [parameters.channel]

    def check(self, parameters: Any, setup: FrozenSetup) -> None:
        _curve(parameters)
        channel = channel_of(setup, parameters.channel)
        if channel.quantity not in COUNTED:
            raise Problem(
                422,
                f"{channel.name} measures {channel.quantity}: no stress comes of it.",
                field="channel",
                hint="Choose a channel of strain, force or stress.",
            )

    def compute(self, run: Run, parameters: Any) -> Computed:
        setup = setup_of(run)
        self.check(parameters, setup)
        channel = channel_of(setup, parameters.channel)
        points, clipped, samples = _turning_points(run, parameters)
        by_unit = _stress_by_unit(parameters, channel)
        counted = _count(points, parameters, by_unit)
        details = CyclesDetails(
            channel=channel.name,
            unit=channel.unit,
            width=counted.width,
            lowest_mean=counted.matrix.lowest_mean,
            counts=counted.matrix.counts.tolist(),
            damage=counted.damage_shares,
            points=len(points),
            stress_by_unit=by_unit,
            curve_strength_pa=parameters.curve_strength_pa,
            curve_exponent=parameters.curve_exponent,
        )
        note = clipped_note(channel, clipped, samples)
        columns = [Column("points", channel.unit, _thinned(points))]
        values = _values(counted, channel.unit, bool(by_unit))
        return Computed(values, details, columns, [note] if note else [])

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        from yoke_server.derive.kinds.cycles.figure import figure

        return figure(columns, details, parameters)


@dataclass(slots=True)
class Counted:
    """What was counted of a history; ``damage`` is the sum of what each cycle does."""

    width: float
    lowest: float
    highest: float
    matrix: "RangeMeanMatrix"
    total: float = 0.0
    largest: float = 0.0
    damage: float = 0.0

    def add(self, cycles: "CoreCycles", damage: Any) -> None:
        self.matrix.add(cycles, damage)
        self.total += cycles.total
        self.largest = max(self.largest, float(cycles.ranges.max(initial=0.0)))
        self.damage += float(damage.sum())

    @property
    def damage_shares(self) -> list[list[float]]:
        """Of each class."""
        shares: list[list[float]] = (self.matrix.weights / (self.damage or 1.0)).tolist()
        return shares


def _count(points: Any, parameters: CyclesParameters, by_unit: float) -> Counted:
    """Some points at a time; each cycle does its damage before it is put into a class."""
    import numpy as np
    from yoke_core.fatigue.life import damage_of
    from yoke_core.fatigue.rainflow import RainflowCounter, RangeMeanMatrix

    counter, curve = RainflowCounter(), _curve(parameters)
    lowest, highest = (float(points.min()), float(points.max())) if len(points) else (0.0, 1.0)
    width = round_width((highest - lowest) / CLASSES)
    found = Counted(width, lowest, highest, RangeMeanMatrix(width, lowest, highest))
    parts = (points[i : i + AT_ONCE] for i in range(0, len(points), AT_ONCE))
    strength = parameters.tensile_strength_pa

    def add(cycles: "CoreCycles") -> None:
        none = np.zeros(len(cycles.first))
        found.add(cycles, damage_of(cycles, curve, by_unit, strength) if by_unit else none)

    for part in parts:
        add(counter.push(part))
    add(counter.finish())
    return found


def _thinned(points: Any) -> Any:
    import numpy as np

    shown = min(len(points), SHOWN_POINTS)
    return points[np.linspace(0, len(points) - 1, shown).astype(int)]


def _stress_by_unit(parameters: CyclesParameters, channel: ReadableChannel) -> float:
    """Stress (Pa) by what is counted, in SI; 0 where nothing says how they hang together."""
    if channel.quantity == "stress":
        return 1.0
    if channel.quantity == "strain":
        return parameters.modulus_pa
    return 1 / parameters.section_m2 if parameters.section_m2 else 0.0


def _curve(parameters: CyclesParameters) -> "BasquinCurve":
    from yoke_core.errors import FatigueError
    from yoke_core.fatigue.life import BasquinCurve

    try:
        return BasquinCurve(parameters.curve_strength_pa, parameters.curve_exponent)
    except FatigueError as error:
        field = f"curve_{error.argument}" + ("_pa" if error.argument == "strength" else "")
        raise Problem(422, str(error), field=field, hint=error.hint) from error


def _turning_points(run: Run, parameters: CyclesParameters) -> Any:
    """Turning points, and how many samples clipped of how many; samples pass row by row."""
    import numpy as np
    from yoke_core.fatigue.turning import TurningPoints

    finder = TurningPoints(parameters.gate)
    parts, clipped, samples = [], 0, 0
    for _, (values,) in in_pieces(run, [parameters.channel]):
        parts.append(finder.push(values.astype(np.float32)).copy())
        clipped += int(np.isinf(values).sum())
        samples += values.size
    return np.concatenate([*parts, finder.finish()]), clipped, samples


def round_width(least: float) -> float:
    """The next of 1, 2, 5 times a power of ten that is no less than ``least``."""
    import math

    power = 10.0 ** math.floor(math.log10(least))
    fits = (step for step in (1, 2, 5) if step * power >= least)
    return float(f"{next(fits, 10) * power:.1g}")


def _values(counted: Counted, unit: str, has_stress: bool) -> list[Value]:
    miner = "Miner's sum, to 1.0"
    damage = counted.damage if has_stress else None
    repeats = 1 / damage if damage else None
    none = "" if has_stress else "give the section that the force acts on"
    if has_stress and repeats is None:
        none = "no cycle does damage"
    return [
        Value("Repeats", "Repeats to failure", repeats, "1", 0, miner, note=none),
        Value("D", "Damage of one run", damage, "1", 6, miner, note=none),
        Value("n", "Cycles", counted.total, "1", 1, "rainflow, rest as half cycles", CLAUSE),
        Value("Δmax", "Largest range", counted.largest, unit, 1, "rainflow", CLAUSE),
        Value("max", "Highest", counted.highest, unit, 1, "turning points"),
        Value("min", "Lowest", counted.lowest, unit, 1, "turning points"),
    ]
