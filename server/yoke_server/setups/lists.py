"""The lists of names that a setup has: the specimens of its batch, and what is asked at a start."""

from typing import Annotated

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from yoke_server.common.http.fields import Name, comparison_key


def _each_once(names: list[str]) -> list[str]:
    keys = [comparison_key(name) for name in names]
    if twice := next((n for n, key in zip(names, keys, strict=True) if keys.count(key) > 1), None):
        raise PydanticCustomError("rule", "has “{name}” more than once", {"name": twice})
    return names


# Specimens in the order in which they are to be tested.
BatchList = Annotated[list[Name], Field(max_length=200), AfterValidator(_each_once)]
# What whoever starts a run is asked for, such as the room's humidity.
AskedList = Annotated[list[Name], Field(max_length=12), AfterValidator(_each_once)]
