"""Signing in and out; making people and changing what they may do."""

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import connection, transaction
from django.dispatch import Signal
from django.http import HttpRequest
from django.utils.crypto import constant_time_compare, salted_hmac

from yoke_server.accounts.models import Role, User
from yoke_server.common.notify import SESSIONS, notify, session_mark
from yoke_server.common.problems import Problem

# Sent with ``session`` (a key) when it ends, or with ``user`` when all sessions of theirs do.
rights_ended = Signal()
person_added = Signal()  # with ``name`` and ``role``


def sign_in(request: HttpRequest, username: str, password: str) -> User:
    """Begin a session; raises a 401 problem, or 429 after too many wrong passwords."""
    user = authenticate(request, username=username, password=password)
    if getattr(request, "axes_locked_out", False):
        raise Problem(
            429, "There were too many wrong passwords.", hint="Wait five minutes, then try again."
        )
    if not isinstance(user, User):
        raise Problem(
            401,
            "This name and password do not belong together.",
            field="password",
            hint="Check both; passwords tell capitals from small letters.",
        )
    login(request, user)
    return user


def sign_out(request: HttpRequest) -> None:
    """End a session: its screens go dark at once, and it holds no yoke any more."""
    key = request.session.session_key or ""
    with transaction.atomic():
        rights_ended.send(User, session=key, user=None)
        notify(SESSIONS, session=session_mark(key))
    logout(request)


def first_code() -> str:
    """What proves that whoever makes the first person started the application; "" once made."""
    if User.objects.exists():
        return ""
    return salted_hmac("yoke.first-person", "", algorithm="sha256").hexdigest()[:10]


def add_first_person(request: HttpRequest, name: str, password: str, code: str) -> User:
    """The first engineer of an empty installation, signed in; with the code that it printed."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("LOCK TABLE accounts_user IN EXCLUSIVE MODE")  # one of two at once waits
        known = first_code()
        if not known:
            raise Problem(409, "There are people here already.", hint="Sign in.")
        if not constant_time_compare(code.strip().lower(), known):
            raise Problem(
                403, "This is not the code.", field="code",
                hint="Read it where Yoke Bench was started: it stands under the address.",
            )  # fmt: skip
        try:
            person = add_person(name, Role.ENGINEER, password)
        except ValidationError as error:
            raise Problem(
                422, "The password is too weak.", field="password", hint=" ".join(error.messages)
            ) from error
    login(request, person, backend=settings.AUTHENTICATION_BACKENDS[-1])
    return person


@transaction.atomic
def add_person(name: str, role: Role, password: str) -> User:
    """Add a person, or give an existing one a new role and password, which ends their sessions.

    Raises ValidationError (of Django) for a password that is too weak.
    """
    person = User.objects.filter(username=name).first() or User(username=name, first_name=name)
    validate_password(password, person)
    person.role = role
    person.set_password(password)
    person.save()
    rights_ended.send(User, session="", user=person)
    notify(SESSIONS, user=person.pk)
    person_added.send(User, name=name, role=role)
    return person
