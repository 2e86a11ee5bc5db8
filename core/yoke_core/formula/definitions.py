"""Several computed channels together: each may name the others, unless that makes a circle."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from yoke_core.formula.checking import Formula, check
from yoke_core.formula.dimension import NONE
from yoke_core.formula.errors import FormulaError
from yoke_core.formula.names import Channel, Names, Unit
from yoke_core.formula.parsing import parse
from yoke_core.formula.tree import Call, ChannelPart, Operation, Part

UNKNOWN = Unit("", 1.0, NONE)


@dataclass(frozen=True, slots=True)
class Definition:
    """A computed channel as it is written."""

    key: str
    name: str
    text: str


def check_together(definitions: Sequence[Definition], names: Names) -> dict[str, Formula]:
    """Formulas by the key of their channel.

    Parameters
    ----------
    definitions : sequence of Definition
    names : Names
        The measured channels; each formula may name the other computed ones too.

    Returns
    -------
    dict of str to Formula

    Raises
    ------
    FormulaError
        Of the first formula at fault, or of one that is computed from itself.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> kn = Unit("kN", 1e3, Dimension.of(m=1, kg=1, s=-2))
    >>> names = Names([kn], [Channel("f", "F", kn)])
    >>> found = check_together([Definition("b", "B", "2 * A"), Definition("a", "A", "F")], names)
    >>> found["b"].result.unit
    'kN'
    """
    return _Together(definitions, names).all()


class _Together:
    def __init__(self, definitions: Sequence[Definition], names: Names) -> None:
        self._definitions = {d.key: d for d in definitions}
        placeholders = [Channel(d.key, d.name, UNKNOWN) for d in definitions]
        self._loose = replace(names, channels=[*names.channels, *placeholders])
        self._names = names
        self._done: dict[str, Formula] = {}

    def all(self) -> dict[str, Formula]:
        for key in self._definitions:
            self._check(key, ())
        return self._done

    def _check(self, key: str, within: tuple[str, ...]) -> None:
        if key in self._done:
            return
        definition = self._definitions[key]
        used = _channels(parse(definition.text, self._loose))
        for part in used:
            other = part.channel.key
            if other in (*within, key):
                raise FormulaError(
                    part.place,
                    f"{part.channel.name} is computed from {definition.name} itself.",
                    "Take one out of the other.",
                )
            if other in self._definitions:
                self._check_named(part, (*within, key))
        channels = [self._as_channel(part.channel) for part in used]
        known = {c.key for c in self._names.channels}
        computed = {c.key: c for c in channels if c.key not in known}
        names = replace(self._names, channels=[*self._names.channels, *computed.values()])
        self._done[key] = check(definition.text, names)

    def _check_named(self, part: ChannelPart, within: tuple[str, ...]) -> None:
        """What is wrong with a computed channel is said where another formula names it."""
        try:
            self._check(part.channel.key, within)
        except FormulaError as error:
            message = f"{part.channel.name} cannot be computed: {error}"
            raise FormulaError(part.place, message, error.hint) from None

    def _as_channel(self, channel: Channel) -> Channel:
        if channel.key not in self._done:
            return channel
        result = self._done[channel.key].result
        listed = self._names.by_unit.get(result.unit)
        unit = listed or Unit(result.unit, 1.0, result.dimension)
        return replace(channel, unit=unit, node=result.node)


def _channels(part: Part) -> list[ChannelPart]:
    match part:
        case ChannelPart():
            return [part]
        case Operation(parts=parts) | Call(arguments=parts):
            return [c for p in parts for c in _channels(p)]
        case _:
            return []
