"""The kinds of values that people may send: each bounded by what its quantity can be.

Bodies of the API are a `Body`: strict (no text for a number), and without fields that nobody
knows. Bounds leave every combination of values far from the ends of floating point.
"""

import re
import unicodedata
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import PydanticCustomError, PydanticKnownError, core_schema


class Body(BaseModel):
    """What a request brings."""

    model_config = ConfigDict(extra="forbid", strict=True)

    def given(self, but: set[str] | None = None) -> dict[str, Any]:
        """The fields that were sent, also those sent as null."""
        names = self.model_fields_set - (but or set())
        return {name: getattr(self, name) for name in type(self).model_fields if name in names}


class Answer(BaseModel):
    """A part of an answer, of which there are many: read from rows or plain data as they are."""

    model_config = ConfigDict(from_attributes=True)


def unset() -> Any:
    """Default of an optional field of a PATCH body: a field that is not sent is not changed."""
    return Field(default_factory=lambda: None)


# Numbers, SI unless the name says otherwise


def between(least: float, most: float) -> Any:
    """Finite, from ``least`` to ``most``."""
    return Field(ge=least, le=most, allow_inf_nan=False)


Id = Annotated[int, Field(ge=1, le=2**63 - 1)]
GaugeLength = Annotated[float, between(1e-4, 100)]  # m
Side = Annotated[float, between(1e-6, 10)]  # m, width or thickness of a test piece
Excitation = Annotated[float, between(0.01, 30)]  # V; the device offers some of them
Range = Annotated[float, between(1e-3, 1e4)]  # mV/V; likewise
Resistance = Annotated[float, between(1, 1e5)]  # ohm
GridArea = Annotated[float, between(1e-8, 1e-2)]  # m²
LeadLength = Annotated[float, between(0, 500)]  # m
GaugeFactor = Annotated[float, between(0.1, 500)]
Poisson = Annotated[float, between(0, 0.5)]
RatedOutput = Annotated[float, between(-1.0, 1.0)]  # V/V, not zero
Capacity = Annotated[float, between(1e-6, 1e9)]
Signal = Annotated[float, between(-1e6, 1e6)]  # V/V, V, A or ohm
Quantity = Annotated[float, between(-1e9, 1e9)]
Rate = Annotated[float, between(1, 50_000)]  # Hz; the device offers some of them
Stress = Annotated[float, between(1e3, 1e12)]  # Pa
ProofOffset = Annotated[float, between(1e-5, 0.5)]
PullSpeed = Annotated[float, between(1e-7, 5e-3)]  # m/s
Travel = Annotated[float, between(1e-5, 0.1)]  # m
Share = Annotated[float, between(0.01, 0.99)]
Seconds = Annotated[float, between(-1e9, 1e9)]
Decimals = Annotated[int, Field(ge=0, le=6)]
Day = Annotated[date, Field(strict=False)]

# Text

ALLOWED_IN_LINES = "\n\t"
# Control, format (bidirectional, zero width), surrogate, private, unassigned, line, paragraph.
NOT_PLAIN = frozenset({"Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp"})
# Letters and marks that nobody sees: fillers, joiners, variation selectors (Unicode's
# Default_Ignorable_Code_Point beyond Cf), and the empty braille cell.
UNSEEN = frozenset(
    map(
        chr,
        [
            0x34F,
            0x115F,
            0x1160,
            0x17B4,
            0x17B5,
            *range(0x180B, 0x1810),
            0x2800,
            0x3164,
            *range(0xFE00, 0xFE10),
            0xFFA0,
            *range(0xE0100, 0xE01F0),
        ],
    )
)
SPACES = re.compile("[ \u00a0\u1680\u2000-\u200a\u202f\u205f\u3000]+")  # of category Zs


def comparison_key(text: str) -> str:
    """What of a name people tell it apart by: two names of one look are one name to them."""
    return text.casefold()


@dataclass(frozen=True, slots=True)
class Text:
    """Text of so many characters, tidied; with ``lines`` it may be broken into lines."""

    least: int
    most: int
    lines: bool = False

    def tidy(self, given: str) -> str:
        found = unicodedata.normalize("NFC", given.replace("\r\n", "\n")).strip()
        if not self.lines:
            found = SPACES.sub(" ", found)
        for place, character in enumerate(found, start=1):
            if not self._allows(character):
                raise PydanticCustomError(
                    "text_character",
                    "holds a character that cannot be printed, number {place} (U+{code})",
                    {"place": place, "code": f"{ord(character):04X}"},
                )
        if len(found) < self.least:
            raise PydanticKnownError("string_too_short", {"min_length": self.least})
        if len(found) > self.most:
            raise PydanticKnownError("string_too_long", {"max_length": self.most})
        return found

    def _allows(self, character: str) -> bool:
        if self.lines and character in ALLOWED_IN_LINES:
            return True
        return character not in UNSEEN and unicodedata.category(character) not in NOT_PLAIN

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        return core_schema.no_info_after_validator_function(self.tidy, handler(source))

    def __get_pydantic_json_schema__(
        self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, object]:
        return {**handler(schema), "minLength": self.least, "maxLength": self.most}


Name = Annotated[str, Text(1, 30)]
Title = Annotated[str, Text(1, 120)]
Reason = Annotated[str, Text(1, 200)]
Notes = Annotated[str, Text(0, 4000, lines=True)]
Key = Annotated[str, Text(1, 20)]  # of a channel
