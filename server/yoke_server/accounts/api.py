from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import CsrfViewMiddleware
from ninja import Router, Status
from ninja.throttling import AnonRateThrottle

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.accounts.rights import RIGHTS
from yoke_server.accounts.schemas import Person, SignIn
from yoke_server.common.problems import Problem

router = Router(tags=["accounts"])


def person(actor: Actor) -> dict[str, Any]:
    user = actor.user
    may = [deed for deed, roles in RIGHTS.items() if user.role in roles]
    return {"username": user.username, "name": actor.name, "role": user.role, "may": may}


@router.get("/session", response=Person)
def who_am_i(request: HttpRequest) -> dict[str, Any]:
    return person(Actor.of(request))


@router.post(
    "/session",
    response=Person,
    auth=None,
    throttle=AnonRateThrottle(f"{settings.SIGN_INS_PER_MINUTE}/m"),
)
def sign_in(request: HttpRequest, body: SignIn) -> dict[str, Any]:
    # Without a session ninja checks no token: a foreign page must not sign anyone in.
    if CsrfViewMiddleware(lambda r: None).process_view(request, None, (), {}):  # type: ignore[arg-type, return-value]
        raise Problem(403, "The page is too old.", hint="Load it again, then sign in.")
    user = authenticate(request, username=body.username, password=body.password)
    if not isinstance(user, User):
        raise Problem(
            401,
            "This name and password do not belong together.",
            field="password",
            hint="Check both; passwords tell capitals from small letters.",
        )
    login(request, user)
    return person(Actor(user))


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> Status[Any]:
    logout(request)
    return Status(204, None)
