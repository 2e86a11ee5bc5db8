"""Queries that are compiled to SQL once and run many times.

Django takes longer to write most queries than PostgreSQL takes to answer them.
"""

from collections.abc import Callable, Sequence
from functools import cached_property
from itertools import islice
from typing import Any, Generic, TypeVar

from django.core.exceptions import EmptyResultSet
from django.db import connection
from django.db.models import Count, Model, QuerySet

ASKED = -2_000_000_011  # stands in a query for the number that it is asked for

Raw = tuple[Any, ...]  # a row as PostgreSQL gave it, JSON as text: equal rows, equal keys
M = TypeVar("M", bound=Model)


def raw_rows(query: QuerySet[Any, Any]) -> list[Raw]:
    """The rows of a query as PostgreSQL gives them."""
    try:
        sql, params = query.query.sql_with_params()
    except EmptyResultSet:  # it asks for those among none
        return []
    with connection.cursor() as cursor:
        cursor.execute(sql, params)
        return cursor.fetchall()


class Prepared:
    """A query about one number, of one shape; ``make`` writes it with `ASKED` in its place."""

    def __init__(self, make: Callable[[], QuerySet[Any, Any]]) -> None:
        self._make = make

    @cached_property
    def _written(self) -> tuple[str, tuple[Any, ...]]:
        return self._make().query.sql_with_params()

    def rows(self, asked: int) -> list[Raw]:
        """The rows of ``asked`` as tuples of the values that the query names."""
        sql, params = self._written
        with connection.cursor() as cursor:
            cursor.execute(sql, [asked if p == ASKED else p for p in params])
            return cursor.fetchall()

    def number(self, asked: int) -> int:
        """Of a query that counts: its count, 0 where it finds no row."""
        return next((int(count) for (count,) in self.rows(asked)), 0)


def counted(rows: QuerySet[Any], by: str) -> QuerySet[Any, Any]:
    """How many rows there are with a value of ``by``."""
    return rows.values(by).annotate(count=Count("pk")).values_list("count")


class Columns(Generic[M]):
    """Columns of a model in the rows of a query: their names there, and the model's row of them.

    ``prefix`` leads to them from the query's own model; ``only`` some, else all.
    """

    def __init__(self, model: type[M], prefix: str = "", only: Sequence[str] = ()) -> None:
        self._model = model
        fields = model._meta.concrete_fields
        self._fields = [f for f in fields if not only or f.attname in only]
        self.names = [prefix + f.attname for f in self._fields]

    def row(self, values: Sequence[Any]) -> M:
        read = [
            f.from_db_value(value, None, connection) if hasattr(f, "from_db_value") else value
            for f, value in zip(self._fields, values, strict=True)
        ]
        return self._model.from_db("default", [f.attname for f in self._fields], read)


def rows_in(values: Raw, *columns: Columns[Any]) -> list[Any]:
    """The models' rows that stand one behind another in a row of a query."""
    left = iter(values)
    return [c.row(list(islice(left, len(c.names)))) for c in columns]
