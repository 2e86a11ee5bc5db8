"""What later stages add to a setup, without wire knowing them.

Each registers in its app's `ready`: facts that the screens show of a setup or a channel, and
what keeps a bench's setups from being changed.
"""

from collections.abc import Callable, Sequence
from typing import Any

from yoke_server.common.problems import Problem
from yoke_server.wire.document import FrozenChannel, FrozenSetup
from yoke_server.wire.models import Setup

Facts = dict[str, Any]
setup_facts: list[Callable[[Setup, FrozenSetup], Facts]] = []
channel_facts: list[Callable[[FrozenChannel], Facts]] = []
line_facts: list[Callable[[Setup, list[FrozenChannel]], Facts]] = []
locks: list[Callable[[int], str]] = []  # of a bench: what is being recorded on it, or ""


def require_unlocked(bench_id: int) -> None:
    """Raise a 409 problem while something holds the bench's setups fast."""
    for holds in locks:
        if name := holds(bench_id):
            raise Problem(409, f"{name} is being recorded.", hint="Stop it, then change the setup.")


def gathered(facts: Sequence[Callable[..., Facts]], *about: Any) -> Facts:
    """What all who registered know about something."""
    return {name: value for fact in facts for name, value in fact(*about).items()}
