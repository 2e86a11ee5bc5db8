"""A computed channel, as a setup keeps it."""

import re
from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec

MAX_COMPUTED = 32
MAX_STORED = 4000  # characters: keys are longer than some names
KEY = re.compile(r"\{([^{}]*)\}")


class ComputedChannel(Spec):
    """A channel given by a formula, in which channels stand as ``{key}``.

    ``unit`` is the one in which it is read: one of the application's, or what its formula gives,
    as mm/s.
    """

    kind: Literal["computed"] = "computed"
    key: fields.Key
    name: fields.Name
    unit: Annotated[str, Field(max_length=40)]
    decimals: fields.Decimals
    formula: Annotated[str, Field(min_length=1, max_length=MAX_STORED)]

    def with_channels(self, keys: Mapping[str, str]) -> "ComputedChannel":
        """The same of other channels, by the keys of these."""
        formula = KEY.sub(lambda m: f"{{{_renamed(m.group(1), keys)}}}", self.formula)
        return self.model_copy(update={"key": keys.get(self.key, self.key), "formula": formula})

    @property
    def channels(self) -> set[str]:
        """Keys of the channels and rosettes that its formula names."""
        return set(KEY.findall(self.formula))


def _renamed(key: str, keys: Mapping[str, str]) -> str:
    """A rosette goes by the key of its first grid with an ending."""
    first, dash, rest = key.partition("-")
    return f"{keys.get(first, first)}{dash}{rest}"


ComputedList = Annotated[list[ComputedChannel], Field(max_length=MAX_COMPUTED)]
