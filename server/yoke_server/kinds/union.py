"""Unions of kinds, made from the members that a package lists."""

from collections.abc import Sequence
from typing import Annotated, Any, TypeVar, Union

from pydantic import Field

from yoke_server.kinds.spec import Spec

S = TypeVar("S", bound=Spec)


def union_of(members: Sequence[type[Spec]]) -> Any:
    """A union of specs that is read by their ``kind``; of one member that one alone."""
    if len(members) == 1:
        return members[0]
    return Annotated[Union[tuple(members)], Field(discriminator="kind")]  # noqa: UP007


def by_kind(members: Sequence[type[S]]) -> dict[str, type[S]]:
    """The members by their ``kind``."""
    return {kind_of(m): m for m in members}


def kind_of(spec: type[Spec]) -> str:
    """What a spec's ``kind`` says."""
    return str(spec.model_fields["kind"].default)
