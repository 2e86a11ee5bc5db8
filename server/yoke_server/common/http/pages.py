"""Lists in pages; rows are found by words in their fields."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Generic, TypeVar

from django.db.models import Model, Q, QuerySet
from ninja import Schema
from pydantic import Field

from yoke_server.common.http.fields import Text
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem

DEFAULT_LIMIT, MAX_LIMIT = 30, 200
Limit = Annotated[int, Field(ge=1, le=MAX_LIMIT)]
Cursor = Annotated[int | None, Field(ge=1, le=2**63 - 1)]
Search = Annotated[str, Text(0, 120)]
MAX_WORDS = 8

M = TypeVar("M", bound=Model)
T = TypeVar("T")


class PageOut(Schema, Generic[T]):
    """A page of a list.

    ``next`` : the ``before`` or ``after`` of the following page; null on the last one
    ``count`` : rows in all pages
    """

    items: list[T]
    next: int | None
    count: int


@dataclass(frozen=True, slots=True)
class Rows(Generic[M]):
    rows: list[M]
    next: int | None
    count: int

    def out(self, items: Sequence[T]) -> PageOut[T]:
        """The page with its rows as the API returns them."""
        return PageOut(items=list(items), next=self.next, count=self.count)


@dataclass(frozen=True, slots=True)
class Page:
    """Which page is asked for: at most ``limit`` rows older than the one numbered ``before``."""

    limit: int = DEFAULT_LIMIT
    before: int | None = None

    def of(self, rows: QuerySet[M]) -> Rows[M]:
        """Numbers rise as rows are made, so a row that is added meanwhile moves no page."""
        behind = rows.filter(pk__lt=self.before) if self.before else rows
        return _first(behind.order_by("-pk"), self.limit, rows.count())


@dataclass(frozen=True, slots=True)
class SortedPage:
    """At most ``limit`` rows in ascending order of ``fields``, behind the row numbered ``after``.

    The last field must be unique. Raises a 409 problem where that row was removed.
    """

    fields: tuple[str, ...]
    limit: int = DEFAULT_LIMIT
    after: int | None = None

    def of(self, rows: QuerySet[M]) -> Rows[M]:
        return _first(self._behind(rows).order_by(*self.fields), self.limit, rows.count())

    def _behind(self, rows: QuerySet[M]) -> QuerySet[M]:
        if self.after is None:
            return rows
        last = rows.model._default_manager.filter(pk=self.after).values(*self.fields).first()
        if last is None:
            raise Problem(
                409,
                "The last row of the page before was removed.",
                code=ProblemType.CHANGED_MEANWHILE,
                hint="Read the list anew.",
            )
        behind = Q()
        for i, name in enumerate(self.fields):
            same = Q(**{earlier: last[earlier] for earlier in self.fields[:i]})
            behind |= same & Q(**{f"{name}__gt": last[name]})
        return rows.filter(behind)


def _first(rows: QuerySet[M], limit: int, count: int) -> Rows[M]:
    """The first rows of an ordered query, and where the page behind them begins."""
    found = list(rows[: limit + 1])
    page = found[:limit]
    return Rows(page, page[-1].pk if len(found) > limit else None, count)


def searched(rows: QuerySet[M], fields: tuple[str, ...], words: str) -> QuerySet[M]:
    """Rows in which each word occurs in one of the fields."""
    own = [name for name in fields if "__" not in name]
    related = [name for name in fields if "__" in name]
    for word in words.split()[:MAX_WORDS]:
        somewhere = Q(pk__in=_with(rows.model, related, word)) if related else Q()
        for name in own:
            somewhere |= Q(**{f"{name}__icontains": word})
        rows = rows.filter(somewhere)
    return rows


def _with(model: type[M], related: list[str], word: str) -> "QuerySet[Any, Any]":
    """Rows that have a word in rows of theirs: one by one, a row would come once for each."""
    somewhere = Q()
    for name in related:
        somewhere |= Q(**{f"{name}__icontains": word})
    return model._default_manager.filter(somewhere).values("pk")
