"""A programme played on paper: how long it takes, and between which forces it goes."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from yoke_server.kinds.legs.base import Leg, LegOnPaper

MAX_PLAYED = 10_000  # legs, rounds counted; a longer programme is played as far as that


@dataclass(slots=True)
class LegTotal:
    """How long a leg takes in all its rounds, without what a person decides, and its cycles."""

    seconds: float = 0.0
    cycles: int = 0


@dataclass(slots=True)
class Played:
    """What a programme comes to.

    seconds : None where a person or a travel decides
    legs : each as it is played first
    totals : of each, over all its rounds
    """

    seconds: float | None = 0.0
    cycles: int = 0
    lowest: float | None = None
    highest: float | None = None
    legs: list[LegOnPaper] = field(default_factory=list)
    totals: list[LegTotal] = field(default_factory=list)


def played(legs: Sequence[Leg]) -> Played:
    """All legs with their repeats, from no load on."""
    found, place, rounds, force = Played(), 0, [0] * len(legs), 0.0
    found.totals = [LegTotal() for _ in legs]
    first: dict[int, LegOnPaper] = {}
    for _ in range(MAX_PLAYED):
        if place >= len(legs):
            break
        leg, one = legs[place], legs[place].on_paper(force)
        first.setdefault(place, one)
        _add(found, one)
        found.totals[place].seconds += one.seconds or 0.0
        found.totals[place].cycles += one.cycles
        force = force if one.end is None else one.end
        back = leg.back_to(rounds[place])
        if back is None:
            rounds[place] = 0
            place += 1
        else:
            rounds[place] += 1
            place = back
    else:
        found.seconds = None
    found.legs = [first.get(i, LegOnPaper(None)) for i in range(len(legs))]
    return found


def _add(found: Played, one: LegOnPaper) -> None:
    found.cycles += one.cycles
    if found.seconds is not None:
        found.seconds = None if one.seconds is None else found.seconds + one.seconds
    for name, better in (("lowest", min), ("highest", max)):
        value, so_far = getattr(one, name), getattr(found, name)
        if value is not None:
            setattr(found, name, value if so_far is None else better(so_far, value))
