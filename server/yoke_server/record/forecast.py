"""What a run of a setup is to come to: how long, how many samples, how many bytes."""

from dataclasses import dataclass

from yoke_server.kinds.keep_rules.base import Expected, KeepRule, names_of
from yoke_server.record.levels import FACTOR
from yoke_server.record.runs import layout_of, planes_of
from yoke_server.setups.document import FrozenSetup

HOUR = 3600.0
OF_ENVELOPE = 8 / (FACTOR - 1)  # bytes of pairs for each value, over all levels
OF_ROW = 190  # bytes that a row costs besides its samples, with its share of the indices
ROW_S = {True: 0.5, False: 8.0}  # that a row of a main stream lasts, and of another


@dataclass(frozen=True, slots=True)
class RuleForecast:
    """Of one keep rule, over all devices; ``at_least``: more where something changes."""

    samples: int
    nbytes: int
    at_least: bool


@dataclass(frozen=True, slots=True)
class Forecast:
    """Of a run as far as it is known beforehand.

    seconds : until its motion or its time ends it; an hour where a person does
    is_known : whether something but a person ends it
    """

    seconds: float
    is_known: bool
    rules: list[RuleForecast]

    @property
    def nbytes(self) -> int:
        return sum(rule.nbytes for rule in self.rules)


def forecast(setup: FrozenSetup) -> Forecast:
    """Of a run that begins now."""
    paper = setup.motion.on_paper
    ends = [s.max_seconds for s in setup.stops if s.max_seconds is not None]
    if paper and paper.seconds is not None and any(s.ends_with_motion for s in setup.stops):
        ends.append(paper.seconds)
    if cycles_hz := setup.motion.cycles_hz:
        ends += [s.max_cycles / cycles_hz for s in setup.stops if s.max_cycles is not None]
    seconds = min(ends, default=HOUR)
    rules = [
        _of_rule(setup, name, rule, seconds)
        for name, rule in zip(names_of(setup.keep_rules), setup.keep_rules, strict=True)
    ]
    return Forecast(seconds, bool(ends), rules)


def _of_rule(setup: FrozenSetup, name: str, rule: KeepRule, seconds: float) -> RuleForecast:
    expected = _expected(setup, rule, seconds)
    samples = nbytes = 0.0
    row_s = ROW_S[rule.keeps_all]
    for label in {c.device_label for c in setup.channels}:
        rows = rule.rows(setup.rates_hz[label], expected)
        planes, width = planes_of(layout_of(rule), setup.of_device(label))
        samples += rows
        nbytes += rows * planes * (width + OF_ENVELOPE)
        nbytes += min(rows, expected.seconds / row_s) * OF_ROW
    return RuleForecast(round(samples), round(nbytes), rule.is_open_ended)


def _expected(setup: FrozenSetup, rule: KeepRule, seconds: float) -> Expected:
    """Of the legs in which a rule keeps; of the whole run, where it keeps all the time."""
    paper = setup.motion.on_paper
    if paper is None:
        return Expected(seconds, round(seconds * (setup.motion.cycles_hz or 0.0)))
    share = seconds / paper.seconds if paper.seconds else 1.0
    if not rule.legs:
        return Expected(seconds, round(paper.cycles * min(share, 1.0)))
    of_legs = [paper.totals[leg - 1] for leg in rule.legs if leg <= len(paper.totals)]
    return Expected(
        min(seconds, sum(total.seconds for total in of_legs)),
        sum(total.cycles for total in of_legs),
    )
