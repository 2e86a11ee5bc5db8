from datetime import datetime

from ninja import Schema

from yoke_server.common.http.fields import Answer, Body, Id, unset
from yoke_server.derive.kinds import DetailsSpec, RecipeSpec


class LineResultsOut(Answer):
    """How many results a setup has, and of its newest run how many are stale."""

    results: int = 0
    stale: int = 0


class RecipeOut(Schema):
    id: int
    setup: int
    version: int
    parameters: RecipeSpec


class RecipeOffer(Schema):
    """Something that can be derived of a setup's runs, ready to be added as a recipe."""

    title: str
    parameters: RecipeSpec


class RecipeIn(Body):
    parameters: RecipeSpec


class RecipeChange(Body):
    """``run`` is the one whose results are looked at: it is computed first."""

    parameters: RecipeSpec
    run: Id | None = unset()


class ResultTermOut(Schema):
    """A standard uncertainty of a result, SI."""

    name: str
    standard: float


class ResultOut(Schema):
    """A value in SI, shown in ``unit``; null where there is none.

    expanded : U = k u with 95.45 %, k being ``factor``; null where it is not known
    """

    symbol: str
    name: str
    value: float | None
    unit: str
    decimals: int
    method: str
    clause: str
    note: str
    expanded: float | None
    factor: float | None
    budget: list[ResultTermOut]


class ProblemOut(Schema):
    title: str
    hint: str


class DerivationOut(Schema):
    """A run's results by one recipe: ``stale`` until the worker has computed them of what is
    in force now. ``problem`` says why there are none; the rest is the last that there was."""

    run: int
    recipe: RecipeOut
    stale: bool
    problem: ProblemOut | None
    results: list[ResultOut]
    details: DetailsSpec | None
    notes: list[str]
    lacks: list[str]
    fingerprint: str
    computed_at: datetime | None


class SeriesOut(Schema):
    """Statistics of one result over the kept runs of a setup; SI."""

    recipe: int
    symbol: str
    count: int
    mean: float
    deviation: float | None
    lowest: float
    highest: float
