"""Who may do what. Every service that changes something asks here first."""

from typing import Literal

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Role
from yoke_server.common.http.problems import Problem

WORK = {Role.ENGINEER, Role.TECHNICIAN}
Right = Literal[
    "arrange projects",
    "set up benches",
    "manage people",
    "drive the bench",
    "wire channels",
    "zero and check channels",
    "keep the library",
    "keep certificates",
    "change scaling",
    "change the specimen",
    "change recipes",
    "import files",
    "write reports",
]
RIGHTS: dict[Right, set[Role]] = {
    "arrange projects": WORK,
    "set up benches": {Role.ENGINEER},
    "manage people": {Role.ENGINEER},
    "drive the bench": WORK,
    "wire channels": WORK,
    "zero and check channels": WORK,
    "keep the library": WORK,
    "keep certificates": {Role.ENGINEER},
    "change scaling": {Role.ENGINEER},
    "change the specimen": WORK,
    "change recipes": {Role.ENGINEER},
    "import files": WORK,
    "write reports": WORK,
}


def require(actor: Actor, action: Right) -> None:
    """Raise a 403 problem unless ``actor``'s role may do ``action``."""
    if actor.user.role not in RIGHTS[action]:
        allowed = " or ".join(sorted(role.value for role in RIGHTS[action]))
        raise Problem(
            403,
            f"A {actor.user.role} may not {action}.",
            hint=f"Ask an {allowed} to do it." if allowed[0] in "aeiou" else f"Ask a {allowed}.",
        )
