"""Signing in and out, one's own password, and the first person of an installation."""

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import connection, transaction
from django.dispatch import Signal
from django.http import HttpRequest
from django.utils.crypto import constant_time_compare, salted_hmac

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.address import client_address
from yoke_server.accounts.models import Role, User
from yoke_server.accounts.tries import begin_try
from yoke_server.common.db.notify import SESSIONS, notify, session_mark
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem

# Sent with ``session`` (a key) when it ends, or with ``user`` when all sessions of theirs do.
rights_ended = Signal()
noted = Signal()  # with ``actor`` (or None) and ``action``: what the ledger keeps


def sign_in(request: HttpRequest, username: str, password: str) -> User:
    """Begin a session; raises a 401 problem, or 429 after too many wrong passwords."""
    address = client_address(request)
    try:
        attempt = begin_try(username, address)
    except Problem:
        note(f"Kept out {_known(username)} from {address}: too many wrong passwords")
        raise
    user = authenticate(request, username=username, password=password)
    if not isinstance(user, User):
        note(f"Wrong password of {_known(username)} from {address}")
        raise Problem(
            401,
            "This name and password do not belong together.",
            field="password",
            hint="Check both; passwords tell capitals from small letters.",
        )
    attempt.delete()
    login(request, user)
    note(f"Signed in from {address}", Actor(user))
    return user


def _known(username: str) -> str:
    """A user name that exists; what was typed in the wrong field never reaches the ledger."""
    return username if User.objects.filter(username=username).exists() else "an unknown name"


def note(action: str, actor: Actor | None = None) -> None:
    noted.send(User, actor=actor, action=action)


def sign_out(request: HttpRequest) -> None:
    """End a session: its screens go dark at once, and it holds no yoke any more."""
    key = request.session.session_key or ""
    with transaction.atomic():
        rights_ended.send(User, session=key, user=None)
        notify(SESSIONS, session=session_mark(key))
    logout(request)


def change_password(request: HttpRequest, old: str, new: str) -> None:
    """One's own; ends one's other sessions. The old one is counted as a try like at signing in."""
    actor = Actor.of(request)
    attempt = begin_try(actor.user.username, client_address(request))
    if not actor.user.check_password(old):
        raise Problem(403, "This is not your password.", field="old", hint="Give the present one.")
    attempt.delete()
    with transaction.atomic():
        person = User.objects.select_for_update().get(pk=actor.user.pk)
        if person.password != actor.user.password:
            raise Problem(
                409,
                "Your password was changed meanwhile.",
                code=ProblemType.CHANGED_MEANWHILE,
                hint="Sign in again.",
            )
        put_password(person, new, field="new")
        note("Changed the own password", actor)
    update_session_auth_hash(request, person)


def put_password(person: User, password: str, field: str = "password") -> None:
    """A new password, which ends all sessions of the person; a 422 problem if it is too weak."""
    try:
        validate_password(password, person)
    except ValidationError as error:
        raise Problem(
            422, "The password is too weak.", field=field, hint=" ".join(error.messages)
        ) from error
    person.set_password(password)
    end_sessions_of(person)


def end_sessions_of(person: User) -> None:
    """Saves the person; their screens go dark, and they hold no yoke any more."""
    person.session_number += 1
    person.save()
    rights_ended.send(User, session="", user=person)
    notify(SESSIONS, user=person.pk)


@transaction.atomic
def add_person(name: str, role: Role, password: str, by: Actor | None = None) -> User:
    """Raises a 409 problem for a name that is taken, 422 for a password that is too weak."""
    if User.objects.filter(username__iexact=name).exists():
        raise Problem(
            409,
            f"There is, or was, a person {name}.",
            code=ProblemType.NAME_TAKEN,
            field="username",
            hint="Choose another name; the ledger tells people apart by it.",
        )
    person = User(username=name, first_name=name, role=role)
    put_password(person, password)
    note(f"Added {name} as {role}", by)
    return person


@transaction.atomic
def replace_person(name: str, role: Role, password: str) -> None:
    """A new role and password for somebody who is there, or was removed; ends their sessions."""
    person = User.objects.select_for_update().get(username=name)
    person.role, person.is_active = role, True
    put_password(person, password)
    note(f"Gave {person.username} a new password and the role {role}")


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
            raise Problem(
                409,
                "There are people here already.",
                code=ProblemType.EXISTS_ALREADY,
                hint="Sign in.",
            )
        if not constant_time_compare(code.strip().lower(), known):
            raise Problem(
                403,
                "This is not the code.",
                field="code",
                hint="Read it where Yoke Bench was started: it stands under the address.",
            )
        person = add_person(name, Role.ENGINEER, password)
    login(request, person, backend=settings.AUTHENTICATION_BACKENDS[-1])
    return person
