"""Who may sign in, and as what: kept by engineers."""

from django.contrib.auth.hashers import make_password
from django.db import transaction

from yoke_server.accounts import services
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Role, User
from yoke_server.accounts.rights import Right, require
from yoke_server.accounts.schemas import PeoplePage, PersonOut
from yoke_server.common.http.pages import SortedPage, searched
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem

ACTION: Right = "manage people"


def listed(actor: Actor, page: SortedPage, *, removed: bool, search: str) -> PeoplePage:
    """A page of who may sign in, or of who was removed; with how many there are of both."""
    require(actor, ACTION)
    rows = User.objects.filter(is_active=not removed)
    found = page.of(searched(rows, ("username", "role"), search))
    return PeoplePage.model_validate(
        {
            **dict(found.out([person_out(p) for p in found.rows])),
            "removed": User.objects.filter(is_active=False).count(),
            "may_sign_in": User.objects.filter(is_active=True).count(),
        }
    )


def person_out(person: User) -> PersonOut:
    """A person as the API returns it."""
    return PersonOut(
        id=person.pk,
        username=person.username,
        role=person.role,
        removed=not person.is_active,
        last_signed_in_at=person.last_login,
    )


def add(actor: Actor, *, username: str, role: str, password: str) -> User:
    require(actor, ACTION)
    return services.add_person(username, Role(role), password, by=actor)


@transaction.atomic
def change_role(actor: Actor, person_id: int, role: str) -> User:
    """Ends the person's sessions, so that no screen offers what is not allowed any more."""
    person = _locked(actor, person_id)
    if person.role != role:
        before, person.role = person.role, role
        _require_an_engineer(person)
        services.end_sessions_of(person)
        services.note(f"Made {person.username} {role}, from {before}", actor)
    return person


@transaction.atomic
def give_password(actor: Actor, person_id: int, password: str) -> User:
    """For somebody who forgot theirs, or was removed and comes back; ends their sessions."""
    person = _locked(actor, person_id)
    back = "" if person.is_active else ", and took them back"
    person.is_active = True
    services.put_password(person, password)
    services.note(f"Gave {person.username} a new password{back}", actor)
    return person


@transaction.atomic
def end_sessions(actor: Actor, person_id: int) -> User:
    person = _locked(actor, person_id)
    services.end_sessions_of(person)
    services.note(f"Ended the sessions of {person.username}", actor)
    return person


@transaction.atomic
def remove(actor: Actor, person_id: int) -> User:
    """They cannot sign in any more; what they did stays theirs in the ledger."""
    person = _locked(actor, person_id)
    if person.is_active:
        person.is_active = False
        person.password = make_password(None)
        _require_an_engineer(person)
        services.end_sessions_of(person)
        services.note(f"Removed {person.username}", actor)
    return person


def _locked(actor: Actor, person_id: int) -> User:
    """One change at a time, so that the last two engineers cannot remove each other."""
    require(actor, ACTION)
    engineers = User.objects.filter(role=Role.ENGINEER, is_active=True)
    list(engineers.order_by("pk").select_for_update().values_list("pk"))
    return User.objects.select_for_update().get(pk=person_id)


def _require_an_engineer(but: User) -> None:
    """Raises a 409 problem where nobody would be left who may do this."""
    if but.role == Role.ENGINEER and but.is_active:
        return
    if not User.objects.filter(role=Role.ENGINEER, is_active=True).exclude(pk=but.pk).exists():
        raise Problem(
            409,
            f"{but.username} is the only engineer.",
            code=ProblemType.IN_USE,
            hint="Make somebody else engineer first.",
        )
