"""Who is signed in, for operations that wait for something and must not hold a thread."""

from django.http import HttpRequest
from ninja.security import SessionAuth

from yoke_server.accounts.models import User


class SignedIn(SessionAuth):
    """The same as ninja's `django_auth`, token check included, in an async operation."""

    async def __call__(self, request: HttpRequest) -> User | None:  # type: ignore[override]
        self._get_key(request)
        user = await request.auser()
        request.user = user
        return user if isinstance(user, User) else None


signed_in = SignedIn()
