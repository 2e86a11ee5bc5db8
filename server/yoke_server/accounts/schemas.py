from ninja import Schema


class SignIn(Schema):
    username: str
    password: str


class Person(Schema):
    """Who is signed in, and which deeds their role allows."""

    username: str
    name: str
    role: str
    may: list[str]
