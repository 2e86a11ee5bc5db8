"""What may be written next, while a formula is typed."""

import re
from dataclasses import dataclass

from yoke_core.formula.functions import FUNCTIONS
from yoke_core.formula.functions.base import EXAMPLES
from yoke_core.formula.names import Names
from yoke_core.formula.texts import written

MAX_SHOWN = 6
AFTER_NUMBER = re.compile(r"\d\s*([^\W\d]\w*|[°µ%]\w*)?$")
BEGUN = re.compile(r"[^\W\d][\w ]*$")
IF = "if(condition, signal, signal)"


@dataclass(frozen=True, slots=True)
class Suggestion:
    """What may be written.

    Attributes
    ----------
    text : str
        It, with which what was begun is replaced.
    words : str
        What it is.
    begins : int
        Where what was begun begins.
    """

    text: str
    words: str
    begins: int


def suggestions(text: str, names: Names) -> list[Suggestion]:
    """What may follow a formula that was typed up to here; at most six.

    Parameters
    ----------
    text : str
        Up to the cursor.
    names : Names

    Returns
    -------
    list of Suggestion
        After a number units; else channels, rosettes, functions and options that begin so.

    Examples
    --------
    >>> [s.text for s in suggestions("2 * lowp", Names([]))]
    ['lowpass(signal, to 20 Hz, order 4)']
    """
    if (number := AFTER_NUMBER.search(text)) is not None:
        begun = number.group(1) or ""
        at = len(text) - len(begun)
        units = [Suggestion(u.name, "unit", at) for u in names.units if u.name.startswith(begun)]
        return units[:MAX_SHOWN]
    return [s for begun in _begun(text) for s in _beginning_so(begun, len(text), names)][:MAX_SHOWN]


def _begun(text: str) -> list[str]:
    """What the last words may be the beginning of: all of them first, then fewer."""
    found = BEGUN.search(text)
    if found is None:
        return [""]
    words = found.group().split(" ")
    return [" ".join(words[i:]) for i in range(len(words))]


def _beginning_so(begun: str, end: int, names: Names) -> list[Suggestion]:
    lower, at = begun.lower(), end - len(begun)
    named = [(c.name, f"channel, {c.unit.name}".rstrip(", ")) for c in names.channels]
    named += [(r.name, "rosette") for r in names.rosettes]
    found = [
        Suggestion(written(name, names), words, at)
        for name, words in named
        if name.lower().startswith(lower)
    ]
    calls = [(f.usage, f.summary) for f in FUNCTIONS.values()] + [(IF, "One or the other")]
    calls += [(f"{word} {example}", "option") for word, example in EXAMPLES.items()]
    if not begun.strip():
        return found
    return found + [
        Suggestion(text, words, at) for text, words in calls if text.lower().startswith(lower)
    ]
