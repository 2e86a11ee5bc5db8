"""Authentication of API operations; sessions that pass are remembered (accounts/known.py)."""

from typing import Any

from django.http import HttpRequest
from ninja.security import SessionAuth

from yoke_server.accounts.known import known
from yoke_server.accounts.models import User


def _signed_in(request: HttpRequest, user: Any) -> User | None:
    if not isinstance(user, User):
        return None
    known.saw(request.session.session_key, user.pk)
    return user


class SignedIn(SessionAuth):
    """By Django's session and CSRF token."""

    def authenticate(self, request: HttpRequest, key: str | None) -> User | None:
        return _signed_in(request, request.user)


class SignedInAsync(SessionAuth):
    """The same for async operations."""

    async def __call__(self, request: HttpRequest) -> User | None:  # type: ignore[override]
        self._get_key(request)
        request.user = await request.auser()
        return _signed_in(request, request.user)


signed_in = SignedIn()
signed_in_async = SignedInAsync()
