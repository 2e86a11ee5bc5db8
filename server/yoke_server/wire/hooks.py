"""What later stages add to a setup, without wire knowing them.

Each registers in its app's `ready`: facts that the screens show of a setup or a channel, and
what keeps a bench's setups from being changed.
"""

from collections.abc import Callable
from typing import Any

from yoke_server.common.problems import Problem
from yoke_server.wire.document import FrozenChannel, FrozenSetup
from yoke_server.wire.models import Setup

setup_facts: dict[str, Callable[[Setup, FrozenSetup], Any]] = {}
channel_facts: dict[str, Callable[[FrozenChannel], Any]] = {}
line_facts: dict[str, Callable[[Setup], Any]] = {}
locks: list[Callable[[int], str]] = []  # of a bench: what is being recorded on it, or ""


def require_unlocked(bench_id: int) -> None:
    """Raise a 409 problem while something holds the bench's setups fast."""
    for holds in locks:
        if name := holds(bench_id):
            raise Problem(409, f"{name} is being recorded.", hint="Stop it, then change the setup.")
