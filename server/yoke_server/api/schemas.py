"""Answers that are composed of several applications: the setup page and the list of projects."""

from datetime import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.calibrate.schemas import ChannelScalingOut
from yoke_server.common.http import fields
from yoke_server.common.http.fields import Answer, Body, unset
from yoke_server.derive.schemas import LineResultsOut
from yoke_server.kinds.channel_specs import ConditioningSpec, ScalingSpec, WiringSpec
from yoke_server.kinds.corrections import CorrectionSpec
from yoke_server.kinds.guards import GuardSpec
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.kinds.keep_rules import KeepRuleSpec
from yoke_server.kinds.motions import MotionSpec
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.kinds.steps import StepList
from yoke_server.kinds.stops import StopSpec
from yoke_server.kinds.triggers import TriggerSpec
from yoke_server.record.schemas import LineRunsOut, SetupRunsOut
from yoke_server.sensors.schemas import SensorOut
from yoke_server.setups.document import PolarityName
from yoke_server.wire.check.schemas import CheckOut
from yoke_server.wire.grid.schemas import OutcomeOut
from yoke_server.wire.schemas import HeatingOut
from yoke_server.wire.sign.schemas import SignOut

FormulaText = Annotated[
    str, Field(min_length=1, max_length=20_000)
]  # too long: said with its place
ComputedUnit = Annotated[str, Field(max_length=40)]


class UnitIn(Body):
    """A unit of the laboratory's own: for which quantity, and what it is in units that are
    known."""

    name: Annotated[str, fields.Text(1, 12)]
    quantity: Annotated[str, fields.Text(1, 20)]
    definition: Annotated[str, fields.Text(1, 60)]


class UnitOut(Schema):
    """A unit of a quantity or of a signal; the first of a quantity is the usual one."""

    quantity: str
    name: str
    factor: float
    offset: float


class ProjectOut(Schema):
    """A project with what each of its setups is at."""

    id: int
    name: str
    customer: str
    article: str
    standard: str
    archived_at: datetime | None
    setups: list["SetupLine"]


class NextAction(Schema):
    """What a setup waits for, and in which stage."""

    stage: str
    action: str
    reason: str


class SetupLine(LineRunsOut, LineResultsOut):
    """A setup's progress through the stages."""

    id: int
    name: str
    version: int
    bench_id: int
    bench_name: str
    on_bench: bool
    channels: int
    to_zero: int
    reports: int
    next: NextAction


class ChannelOut(ChannelScalingOut):
    """A channel with all its settings."""

    id: int
    key: str
    device_id: int
    device_label: str
    input_id: int
    input_number: int
    input_label: str
    name: str
    sensor: SensorOut
    signal: str
    quantity: str
    active_arms: list[int]
    completion_ohm: float | None
    connection: str
    connection_short: str
    scalings: list[str]
    has_shunt: bool
    least_bit: float | None  # SI of the signal; null where the device does not say
    wiring: WiringSpec
    conditioning: ConditioningSpec
    scaling: ScalingSpec
    polarity: PolarityName
    steps: StepList
    recorded: bool
    zero_each_run: bool
    zero_by_itself: bool
    grid: Grid | None
    zero: float | None
    zeroed_at: datetime | None
    zero_of_today: float | None = None  # the first one of the laboratory's day
    tare: float | None
    tared_at: datetime | None
    shunt_expected_mv_v: float | None
    shunt_measured_mv_v: float | None
    shunt_at: datetime | None
    unit: str
    decimals: int
    check: CheckOut | None
    heating: HeatingOut | None
    sign: SignOut


class ComputedOfferOut(Answer):
    """A computed channel that the setup's channels are made for and that it has not yet."""

    name: str
    formula: str


class ComputedOut(Answer):
    """A computed channel: its formula with names, and where its samples are computed.

    SI = value * factor + offset in its unit; ``problem`` says why it cannot be computed.
    """

    key: str
    name: str
    quantity: str  # empty where no quantity has its unit
    unit: str
    units: list[str]
    factor: float
    offset: float
    decimals: int
    formula: str
    device_label: str
    problem: str


class ComputedIn(Body):
    name: fields.Name
    formula: FormulaText
    unit: ComputedUnit = ""
    decimals: fields.Decimals | None = None


class ComputedChange(Body):
    """What is left out stays; another formula is read in its own unit."""

    name: fields.Name = unset()
    formula: FormulaText = unset()
    unit: ComputedUnit = unset()
    decimals: fields.Decimals = unset()


class FormulaIn(Body):
    """A formula while it is typed.

    ``key`` is that of the computed channel that it is of; empty for a new one.
    """

    text: Annotated[str, Field(max_length=20_000)]
    cursor: Annotated[int, Field(ge=0, le=20_000)]
    key: Annotated[str, Field(max_length=12)] = ""


class PartOut(Answer):
    """A part of a formula: from which character to which, and the unit it is read in."""

    place: tuple[int, int]
    unit: str


class SuggestionOut(Answer):
    """What may be written from the character ``begins`` on."""

    text: str
    words: str
    begins: int


class FormulaOut(Answer):
    """What is known of a formula; ``problem`` is empty where it means something."""

    unit: str
    units: list[str]
    parts: list[PartOut]
    problem: str
    place: tuple[int, int] | None
    hint: str
    proposal: str
    suggestions: list[SuggestionOut]


class RateOut(Answer):
    """At which rate the setup has a device sample."""

    device_id: int
    device_label: str
    rate_hz: float


class LegOut(Schema):
    """A leg of a programme, played on paper; ``seconds`` is None where a person decides. Forces in
    N, None where it controls none; ``outline`` are forces along it, none where it is straight."""

    sentence: str
    seconds: float | None
    lowest: float | None
    highest: float | None
    end: float | None
    cycles: int
    outline: list[float]


class RuleForecastOut(Answer):
    """What a keep rule is to keep in a run; ``at_least``: more where something changes."""

    samples: int
    nbytes: int
    at_least: bool


class ForecastOut(Answer):
    """What a run is to come to; ``is_known``: whether something but a person ends it, else it is
    told for an hour."""

    seconds: float
    is_known: bool
    nbytes: int
    rules: list[RuleForecastOut]


class PaperOut(Schema):
    """A programme played on paper, its repeats counted; ``sentence`` is all of it in words."""

    sentence: str
    seconds: float | None
    cycles: int
    lowest: float | None
    highest: float | None
    legs: list[LegOut]


class SetupOut(SetupRunsOut):
    """A setup with its channels, what is missing for a run, and what can be undone."""

    id: int
    name: str
    version: int
    project_id: int
    project_name: str
    bench_id: int
    rates: list[RateOut]
    run_name_pattern: str
    specimen: str
    piece: SpecimenSpec
    motion: MotionSpec
    stops: list[StopSpec]
    guards: list[GuardSpec]
    proposed_guards: list[GuardSpec]
    keep_rules: list[KeepRuleSpec]
    trigger: TriggerSpec
    asked: list[str]
    forecast: ForecastOut
    paper: PaperOut | None
    channels: list[ChannelOut]
    computed_offers: list[ComputedOfferOut]
    computed: list[ComputedOut]
    free_names: dict[str, str]
    undo: str
    redo: str
    results: int
    reports: int


class CellsDone(Schema):
    """The setup after texts were put into cells, and what became of each."""

    setup: SetupOut
    cells: list[OutcomeOut]


class CorrectionProposal(Body):
    """A correction that is not made yet."""

    runs: Annotated[list[fields.Id], Field(min_length=1, max_length=500)]
    correction: CorrectionSpec


class StaleResultOut(Answer):
    """A result that a correction would make stale; its first value as it is, in SI."""

    run: int
    run_name: str
    recipe: int
    title: str
    symbol: str
    value: float | None
    unit: str
    decimals: int


class StaleReportOut(Answer):
    """A report whose PDF would no longer be what its runs give."""

    id: int
    number: str
    title: str


class CorrectionEffects(Answer):
    """What a correction would make stale. ``untouched`` counts results that it leaves as they
    are."""

    results: list[StaleResultOut]
    untouched: int
    reports: list[StaleReportOut]
