"""The formulas of a setup: names that they may use, and their checked results."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from typing import TYPE_CHECKING, NamedTuple

from yoke_core.errors import RosetteError
from yoke_core.formula.definitions import Definition, check_together
from yoke_core.formula.dimension import FREQUENCY, NONE, Dimension
from yoke_core.formula.errors import FormulaError
from yoke_core.formula.lexing import read_unit
from yoke_core.formula.names import Channel, NamedRosette, Names, Unit
from yoke_core.formula.texts import with_keys, with_names
from yoke_core.rosette.state import Rosette

from yoke_server.common.units import UNITS, dimension_of, learn_own_units, unit, units_of
from yoke_server.kinds.computed import KEY, ComputedChannel
from yoke_server.setups.document import FrozenChannel, FrozenSetup, rosette_key, rosettes_of

if TYPE_CHECKING:
    from yoke_core.formula.checking import Formula

# Where units have one dimension, the first is preferred for what is computed.
PREFERRED = ("stress", "force", "extension", "strain", "torque", "acceleration", "speed", "voltage")
NOT_IN_FORMULAS = frozenset({"loop current"})
MAX_CHECKED = 1000  # formulas that are known
FREQUENCIES = (Unit("Hz", 1.0, FREQUENCY), Unit("kHz", 1e3, FREQUENCY))


def formula_units() -> tuple[Unit, ...]:
    """All units that a formula may name."""
    others = [q for q in UNITS if q not in PREFERRED and q not in NOT_IN_FORMULAS]
    return _named(tuple(dict.fromkeys(n for q in (*PREFERRED, *others) for n in units_of(q))))


@cache
def _named(names: tuple[str, ...]) -> tuple[Unit, ...]:
    known = (unit(n) for n in names)
    listed = [Unit(u.name, u.factor, Dimension.of(**dimension_of(u.name)), u.offset) for u in known]
    return (*FREQUENCIES, *listed)


def names_of(channels: Sequence[FrozenChannel]) -> Names:
    """What a formula of a setup may name: its channels, and its rosettes."""
    by_name = {u.name: u for u in formula_units()}
    named = [Channel(c.key, c.name, by_name[c.unit]) for c in channels if c.unit in by_name]
    return Names(formula_units(), named, _rosettes(channels))


def _rosettes(channels: Sequence[FrozenChannel]) -> list[NamedRosette]:
    found = []
    for name, grids in rosettes_of(channels).items():
        try:
            rosette = Rosette(tuple(c.grid.angle for c in grids if c.grid))
        except RosetteError:  # its angles are wrong: it is named nowhere
            continue
        a, b, c = (g.key for g in grids)
        found.append(NamedRosette(rosette_key(grids), name, rosette, (a, b, c)))
    return found


@dataclass(frozen=True, slots=True)
class Computed:
    """A computed channel with what its formula comes to, or what is wrong with it."""

    channel: ComputedChannel
    formula: "Formula | None"
    error: FormulaError | None = None


def computed_of(
    channels: Sequence[FrozenChannel], computed: Sequence[ComputedChannel]
) -> list[Computed]:
    """Each computed channel of a setup; what is wrong with one does not stop the others."""
    found = _computed_of(channels, computed)
    # One may name a unit that another process has defined meanwhile.
    if any(c.error for c in found) and learn_own_units():
        found = _computed_of(channels, computed)
    return found


def _computed_of(
    channels: Sequence[FrozenChannel], computed: Sequence[ComputedChannel]
) -> list[Computed]:
    found = []
    for channel in computed:
        others = [c for c in computed if c.key != channel.key]
        try:
            formula = check_text(channel.formula, channel.key, channels, others)
            found.append(Computed(channel, formula))
        except FormulaError as error:
            found.append(Computed(channel, None, error))
    return found


def check_text(
    text: str,
    key: str,
    channels: Sequence[FrozenChannel],
    others: Sequence[ComputedChannel],
) -> "Formula":
    """What a formula comes to, with channels by name or key.

    key : of the channel that it is the formula of, which it must not come back to
    others : computed channels that it may name

    Raises FormulaError, with its place in the text.
    """
    return _checked(text, key, _Channels(channels), tuple(others))


class _Channels:
    """Channels that are equal where formulas find no difference between them."""

    __slots__ = ("_named", "all")

    def __init__(self, channels: Sequence[FrozenChannel]) -> None:
        self.all = channels
        self._named = tuple((c.key, c.name, c.unit, c.grid) for c in channels)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Channels) and self._named == other._named

    def __hash__(self) -> int:
        return hash(self._named)


@lru_cache(maxsize=MAX_CHECKED)
def _checked(text: str, key: str, of: _Channels, others: tuple[ComputedChannel, ...]) -> "Formula":
    """A sound formula is checked once: each page of a setup asks for it."""
    channels = of.all
    stored = with_keys(text, formula_names(channels, others))
    needed = _needed(set(KEY.findall(stored)), key, others)
    own = Definition(key, key, text)
    definitions = [own, *(Definition(c.key, c.name, c.formula) for c in needed)]
    return check_together(definitions, names_of(channels))[key]


def _needed(wanted: set[str], key: str, others: Sequence[ComputedChannel]) -> list[ComputedChannel]:
    """The computed channels that these keys need, in turn; none that need ``key`` itself."""
    by_key, needed = {c.key: c for c in others}, dict[str, ComputedChannel]()
    while wanted:
        for one in wanted & by_key.keys() - needed.keys():
            needed[one] = by_key[one]
        wanted = {k for c in needed.values() for k in c.channels} & by_key.keys() - needed.keys()
    if any(key in c.channels for c in needed.values()):
        names = ", ".join(c.name for c in needed.values() if key in c.channels)
        raise FormulaError(
            (0, 0), f"{names} is computed from this channel.", "Take one out of the other."
        )
    return list(needed.values())


def stored_formula(
    text: str, channels: Sequence[FrozenChannel], others: Sequence[ComputedChannel]
) -> str:
    """A formula with keys in place of names."""
    return with_keys(text, formula_names(channels, others))


def formula_names(channels: Sequence[FrozenChannel], computed: Sequence[ComputedChannel]) -> Names:
    """What a formula may name, computed channels too: for texts, not for units."""
    names = names_of(channels)
    others = [Channel(c.key, c.name, Unit(c.unit, 1.0, NONE)) for c in computed]
    return replace(names, channels=[*names.channels, *others])


class ComputedOffer(NamedTuple):
    """A computed channel that people would want, as they would write it."""

    name: str
    formula: str


def computed_offers(setup: FrozenSetup) -> list[ComputedOffer]:
    """Of each rosette the first principal strain, where no computed channel is that already."""
    stored = {c.formula for c in setup.computed}
    return [
        ComputedOffer(f"{rosette.name} ε1", f"strain1({rosette.name})")
        for rosette in _rosettes(setup.channels)
        if f"strain1({{{rosette.key}}})" not in stored
    ]


def shown(channels: Sequence[FrozenChannel], computed: Sequence[ComputedChannel]) -> dict[str, str]:
    """Each formula as people read it, by the key of its channel."""
    names = formula_names(channels, computed)
    return {c.key: with_names(c.formula, names) for c in computed}


def units_for(formula: "Formula") -> list[str]:
    """Units in which what a formula gives may be read, its own first."""
    result = formula.result
    if result.dimension.is_none:  # strains are read as strains, angles as angles
        return next((list(n) for n in map(units_of, UNITS) if result.unit in n), [result.unit])
    fitting = [
        u.name
        for u in formula_units()
        if u.dimension == result.dimension and bool(u.offset) <= result.is_temperature
    ]
    return list(dict.fromkeys([result.unit, *fitting]))


def unit_named(name: str) -> Unit:
    """A unit of display by its name, also one made of others; SI for what is none of them."""
    if not name:
        return Unit(name, 1.0, NONE)
    found = read_unit(name, Names(formula_units()))
    if found is None and learn_own_units():
        found = read_unit(name, Names(formula_units()))
    return found or Unit(name, 1.0, NONE)
