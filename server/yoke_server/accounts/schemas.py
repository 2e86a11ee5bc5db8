from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.fields import Body, Text


class SignIn(Body):
    username: Annotated[str, Text(1, 150)]
    password: Annotated[str, Field(min_length=1, max_length=200)]


class FirstPerson(SignIn):
    """The first engineer, with the code that the starting application printed."""

    code: Annotated[str, Text(1, 40)]


class Welcome(Schema):
    """``empty`` while nobody can sign in yet."""

    empty: bool


class Person(Schema):
    """Who is signed in, and which deeds their role allows."""

    username: str
    name: str
    role: str
    may: list[str]
