"""Converting formulas between channel names and stable keys, so that channels can be renamed."""

from yoke_core.formula.lexing import KEY, KEYWORDS, OPTIONS, WORD, Word, words_of
from yoke_core.formula.names import Channel, NamedRosette, Names


def with_keys(text: str, names: Names) -> str:
    """A formula as it is stored.

    Parameters
    ----------
    text : str
        With channels by their names.
    names : Names

    Returns
    -------
    str
        With each channel and rosette as ``{key}``.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> from yoke_core.formula.names import Unit
    >>> kn = Unit("kN", 1e3, Dimension.of(m=1, kg=1, s=-2))
    >>> names = Names([kn], [Channel("k1", "F axle", kn)])
    >>> with_keys("2 * F axle", names), with_names("2 * {k1}", names)
    ('2 * {k1}', '2 * F axle')
    """
    return _replaced(text, [w for w in words_of(text, names) if w.meaning and w.sort != "NUMBER"])


def _replaced(text: str, words: list[Word]) -> str:
    for word in reversed(words):
        assert isinstance(word.meaning, Channel | NamedRosette)
        first, last = word.place
        text = f"{text[:first]}{{{word.meaning.key}}}{text[last:]}"
    return text


def with_names(text: str, names: Names) -> str:
    """A stored formula as people read it.

    Parameters
    ----------
    text : str
        With ``{key}`` for channels and rosettes.
    names : Names

    Returns
    -------
    str
        Names that would be read as something else are in quotes; the key of what was removed
        stays.
    """
    by_key = {n.key: n.name for n in names.named}

    def name(key: str) -> str:
        return written(by_key[key], names) if key in by_key else f"{{{key}}}"

    return KEY.sub(lambda found: name(found.group(1)), text)


def written(name: str, names: Names) -> str:
    """A channel's name as it stands in a formula.

    Parameters
    ----------
    name : str
    names : Names

    Returns
    -------
    str
        In quotes where it would be read as something else.

    Examples
    --------
    >>> written("last", Names([])), written("F axle", Names([]))
    ('"last"', 'F axle')
    """
    first = WORD.match(name)
    plain = first and all(WORD.fullmatch(part) for part in name.split(" "))
    reserved = any(part in KEYWORDS or part in OPTIONS for part in name.split(" "))
    longer = any(n.name.startswith(f"{name} ") for n in names.named)
    return name if plain and not reserved and not longer else f'"{name}"'
