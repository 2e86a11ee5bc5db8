"""Kinds of result, a folder each; a new one is one line in `RESULT_KINDS`. See docs/kinds.md."""

from typing import TYPE_CHECKING, Any

from pydantic import TypeAdapter

from yoke_server.derive.kinds import cycles, rosette, spectrum, statistics, tension
from yoke_server.derive.kinds.base import Offer, ResultKind
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.union import kind_of, union_of
from yoke_server.setups.document import FrozenSetup

RESULT_KINDS: tuple[ResultKind, ...] = (
    tension.RESULT,
    rosette.RESULT,
    cycles.RESULT,
    statistics.RESULT,
    spectrum.RESULT,
)
BY_KIND: dict[str, ResultKind] = {kind_of(k.parameters): k for k in RESULT_KINDS}

if TYPE_CHECKING:
    RecipeSpec = Spec
    DetailsSpec = Spec
else:
    RecipeSpec = union_of([k.parameters for k in RESULT_KINDS])
    DetailsSpec = union_of([k.details for k in RESULT_KINDS])
DETAILS: TypeAdapter[Any] = TypeAdapter(DetailsSpec)


def result_kind(parameters: Spec) -> ResultKind:
    """The kind of result that a recipe's parameters are of."""
    return BY_KIND[parameters.kind]


def offers_of(setup: FrozenSetup) -> list[Offer]:
    """What can be derived of runs with a setup."""
    return [offer for kind in RESULT_KINDS for offer in kind.offers(setup)]


def title_of(parameters: Spec, setup: FrozenSetup) -> str:
    """What a recipe derives, and of what."""
    subject = result_kind(parameters).subject(parameters, setup)
    return f"{parameters.words.capitalize()} {subject}".strip()
