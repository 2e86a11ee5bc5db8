"""The base class of all specs, and the model field that stores one."""

import json
from typing import Any

from django.core.exceptions import ValidationError as FieldError
from django.db import models
from pydantic import BaseModel, ConfigDict, TypeAdapter, ValidationError

from yoke_server.common.http.problems import TAGS, Problem, from_validation


class Part(BaseModel):
    """A part of a spec; SI units unless a name says otherwise."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


class Spec(Part):
    """One kind of something; each has a ``kind`` of its own."""

    kind: str

    @classmethod
    def __pydantic_init_subclass__(cls, **options: Any) -> None:
        if isinstance(tag := cls.model_fields["kind"].default, str):  # none: what kinds share
            TAGS.add(tag)

    @property
    def words(self) -> str:
        """The kind as a person says it."""
        return self.kind.replace("_", " ")


def plain_spec(value: Any) -> Any:
    """A spec or a part, or a list of them, as plain data."""
    if isinstance(value, list):
        return [plain_spec(v) for v in value]
    return value.model_dump(mode="json") if isinstance(value, Part) else value


MAX_KEPT = 2000  # texts of a column that are kept as they were read


class SpecField(models.JSONField):
    """A JSON column that holds one of a union of specs, checked on every write."""

    def __init__(self, union: Any = None, **options: Any) -> None:
        self._union = TypeAdapter(union) if union is not None else None
        self._read_before: dict[str, object] = {}
        super().__init__(**options)

    def deconstruct(self) -> Any:
        name, _, positional, options = super().deconstruct()
        return name, "django.db.models.JSONField", positional, options

    def read(self, value: Any, field: str = "") -> Any:
        """A spec, or a list of them, from plain data; raises a 422 problem naming the field."""
        assert self._union is not None
        try:
            return self._union.validate_json(json.dumps(value))
        except ValidationError as error:
            place = field or self.name
            errors = [{**e, "loc": ("body", place, place, *e["loc"])} for e in error.errors()]
            raise from_validation(errors) from error

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        if not isinstance(value, str):
            return super().from_db_value(value, expression, connection)  # type: ignore[misc]
        found = self._of_text(value)
        return list(found) if isinstance(found, list) else found

    def _of_text(self, text: str) -> Any:
        """A stored text read once: specs never change, and many rows hold the same."""
        if text not in self._read_before:
            if len(self._read_before) >= MAX_KEPT:
                self._read_before.clear()
            found = json.loads(text)
            known = isinstance(found, list) or (isinstance(found, dict) and "kind" in found)
            self._read_before[text] = self.read(found) if known else found
        return self._read_before[text]

    def get_prep_value(self, value: Any) -> Any:
        value = plain_spec(value)
        if value is None and self.null:
            return None
        if not isinstance(value, dict | list) or self._union is None:
            return super().get_prep_value(value)
        try:
            self.read(value)
        except Problem as problem:  # nothing is stored that no kind describes
            raise FieldError(str(problem)) from problem
        return super().get_prep_value(value)
