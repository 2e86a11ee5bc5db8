"""What later stages add to a setup, without wire knowing them.

Each registers in its app's `ready` the facts that the screens show of a setup, of a channel, or
of the setups in a list.
Those of a channel follow from the frozen channel alone: they are kept as long as it stays as it is.
"""

from collections.abc import Callable, Sequence
from typing import Any

from yoke_server.wire.document import FrozenChannel, FrozenSetup
from yoke_server.wire.models import Setup

Facts = dict[str, Any]
setup_facts: list[Callable[[Setup, FrozenSetup], Facts]] = []
channel_facts: list[Callable[[FrozenChannel], Facts]] = []
# Of a page of setups, with their channels by setup: a query a table, not one a row.
line_facts: list[Callable[[list[Setup], dict[int, list[FrozenChannel]]], dict[int, Facts]]] = []


def gathered(facts: Sequence[Callable[..., Facts]], *about: Any) -> Facts:
    """What all who registered know about something."""
    return {name: value for fact in facts for name, value in fact(*about).items()}
