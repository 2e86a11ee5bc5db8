from typing import Any

from django.http import HttpRequest
from django.middleware.csrf import CsrfViewMiddleware
from ninja import Router, Status

from yoke_server.accounts import people, services
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.preferences import change_preferences, preferences_of
from yoke_server.accounts.rights import RIGHTS
from yoke_server.accounts.schemas import (
    FirstPerson,
    NewPassword,
    NewPerson,
    OwnPassword,
    PeoplePage,
    Person,
    PersonChange,
    PersonOut,
    PreferencesChange,
    PreferencesOut,
    SignIn,
    Welcome,
)
from yoke_server.common.http.fields import Id
from yoke_server.common.http.pages import DEFAULT_LIMIT, Cursor, Limit, Search, SortedPage
from yoke_server.common.http.problems import of_status
from yoke_server.common.http.routes import RouteClass, treated_as

router = Router(tags=["accounts"])


def person(actor: Actor) -> Person:
    user = actor.user
    may = [action for action, roles in RIGHTS.items() if user.role in roles]
    return Person(username=user.username, name=actor.name, role=user.role, may=may)


@router.get("/session", response=Person)
def who_am_i(request: HttpRequest) -> Person:
    return person(Actor.of(request))


@router.get("/session/preferences", response=PreferencesOut)
def my_preferences(request: HttpRequest) -> PreferencesOut:
    return preferences_of(Actor.of(request).user)


@router.patch("/session/preferences", response=PreferencesOut)
def change_my_preferences(request: HttpRequest, body: PreferencesChange) -> PreferencesOut:
    """How readings and tables are shown to oneself; nothing stored changes."""
    return change_preferences(Actor.of(request), body.display, body.columns, body.mails, body.email)


def require_own_page(request: HttpRequest) -> None:
    """Without a session ninja checks no token: a foreign page must not sign anyone in."""
    if CsrfViewMiddleware(lambda r: None).process_view(request, None, (), {}):  # type: ignore[arg-type, return-value]
        raise of_status(403)


@router.get("/welcome", response=Welcome, auth=None)
def welcome(request: HttpRequest) -> dict[str, bool]:
    return {"empty": bool(services.first_code())}


@router.post("/first-person", response={201: Person}, auth=None)
@treated_as(RouteClass.HASHING)
def add_first_person(request: HttpRequest, body: FirstPerson) -> Status[Any]:
    """Of an installation where nobody can sign in yet; signs them in."""
    require_own_page(request)
    first = services.add_first_person(request, body.username, body.password, body.code)
    return Status(201, person(Actor(first)))


@router.post("/session", response=Person, auth=None)
@treated_as(RouteClass.HASHING)
def sign_in(request: HttpRequest, body: SignIn) -> Person:
    require_own_page(request)
    return person(Actor(services.sign_in(request, body.username, body.password)))


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> Status[Any]:
    services.sign_out(request)
    return Status(204, None)


@router.post("/session/password", response={204: None})
@treated_as(RouteClass.HASHING)
def change_own_password(request: HttpRequest, body: OwnPassword) -> Status[Any]:
    """Other sessions of the person end."""
    services.change_password(request, body.old, body.new)
    return Status(204, None)


@router.get("/people", response=PeoplePage)
def list_people(
    request: HttpRequest,
    removed: bool = False,
    search: Search = "",
    after: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PeoplePage:
    """By name: who may sign in, or who was removed."""
    page = SortedPage(("username",), limit, after)
    return people.listed(Actor.of(request), page, removed=removed, search=search)


@router.post("/people", response={201: PersonOut})
def add_person(request: HttpRequest, body: NewPerson) -> Status[Any]:
    return Status(201, people.person_out(people.add(Actor.of(request), **body.model_dump())))


@router.patch("/people/{person_id}", response=PersonOut)
def change_role(request: HttpRequest, person_id: Id, body: PersonChange) -> PersonOut:
    return people.person_out(people.change_role(Actor.of(request), person_id, body.role))


@router.post("/people/{person_id}/password", response=PersonOut)
def give_password(request: HttpRequest, person_id: Id, body: NewPassword) -> PersonOut:
    """Of somebody who forgot theirs; who was removed may sign in again."""
    return people.person_out(people.give_password(Actor.of(request), person_id, body.password))


@router.post("/people/{person_id}/end-sessions", response=PersonOut)
def end_sessions(request: HttpRequest, person_id: Id) -> PersonOut:
    return people.person_out(people.end_sessions(Actor.of(request), person_id))


@router.delete("/people/{person_id}", response=PersonOut)
def remove_person(request: HttpRequest, person_id: Id) -> PersonOut:
    """They cannot sign in any more; the ledger keeps their name."""
    return people.person_out(people.remove(Actor.of(request), person_id))
