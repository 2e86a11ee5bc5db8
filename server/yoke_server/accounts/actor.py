"""Who does an action: the person and the browser session it comes from."""

from dataclasses import dataclass

from django.http import HttpRequest

from yoke_server.accounts.models import User


@dataclass(frozen=True, slots=True)
class Actor:
    user: User
    session: str = ""

    @property
    def name(self) -> str:
        return self.user.get_full_name() or self.user.username

    @classmethod
    def of(cls, request: HttpRequest) -> "Actor":
        """The signed-in person of a request; the API refuses strangers before this."""
        user = request.user
        assert isinstance(user, User)
        return cls(user, request.session.session_key or "")
