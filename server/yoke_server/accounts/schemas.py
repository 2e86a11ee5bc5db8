from datetime import datetime
from typing import Annotated, Literal

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from ninja import Schema
from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from yoke_server.accounts.rights import Right
from yoke_server.common.http.fields import Body, Decimals, Text
from yoke_server.common.http.pages import PageOut

Password = Annotated[str, Field(min_length=1, max_length=200)]
Username = Annotated[str, Text(1, 150)]
RoleName = Literal["engineer", "technician", "reviewer"]


class SignIn(Body):
    username: Username
    password: Password


class FirstPerson(SignIn):
    """The first engineer, with the code that the starting application printed."""

    code: Annotated[str, Text(1, 40)]


class Welcome(Schema):
    """``empty`` while nobody can sign in yet."""

    empty: bool


class DisplayUnit(Body):
    unit: Annotated[str, Text(1, 12)]
    decimals: Decimals


class DisplayChange(Body):
    """Without decimals those that suit the unit."""

    unit: Annotated[str, Text(1, 12)]
    decimals: Decimals | None = None


class PreferencesOut(Schema):
    """How a person wants readings and tables shown, instead of as everybody sees them; and
    whether they are told by e-mail what happens at the benches."""

    display: dict[str, DisplayUnit]
    columns: dict[str, list[str]]
    mails: bool
    email: str


def _address(text: str) -> str:
    """Empty, or an address."""
    try:
        if text:
            validate_email(text)
    except ValidationError:
        raise PydanticCustomError("rule", "is no e-mail address") from None
    return text


Column = Annotated[str, Text(1, 40)]


Email = Annotated[str, Text(0, 254), AfterValidator(_address)]


class PreferencesChange(Body):
    """Of oneself, by quantity and by table; null takes a preference back, what is left out
    stays."""

    display: Annotated[dict[Column, DisplayChange | None], Field(max_length=40)] = {}
    columns: Annotated[
        dict[Column, Annotated[list[Column], Field(max_length=40)] | None], Field(max_length=40)
    ] = {}
    mails: bool | None = None
    email: Email | None = None


class Person(Schema):
    """Who is signed in, and which actions their role allows."""

    username: str
    name: str
    role: str
    may: list[Right]


class OwnPassword(Body):
    old: Password
    new: Password


class NewPassword(Body):
    password: Password


class NewPerson(NewPassword):
    username: Annotated[str, Text(1, 30)]
    role: RoleName


class PersonChange(Body):
    role: RoleName


class PersonOut(Schema):
    """Somebody who may sign in, or was ``removed``."""

    id: int
    username: str
    role: str
    removed: bool
    last_signed_in_at: datetime | None


class PeoplePage(PageOut[PersonOut]):
    """``may_sign_in`` and ``removed`` : how many people there are of each, without any filter"""

    may_sign_in: int
    removed: int
