"""What later stages add to a setup, without wire knowing them.

Each registers in its app's `ready` the facts that the screens show of a setup or a channel.
Those of a channel follow from the frozen channel alone: they are kept as long as it stays as it is.
"""

from collections.abc import Callable, Sequence
from typing import Any

from yoke_server.wire.document import FrozenChannel, FrozenSetup
from yoke_server.wire.models import Setup

Facts = dict[str, Any]
setup_facts: list[Callable[[Setup, FrozenSetup], Facts]] = []
channel_facts: list[Callable[[FrozenChannel], Facts]] = []
line_facts: list[Callable[[Setup, list[FrozenChannel]], Facts]] = []


def gathered(facts: Sequence[Callable[..., Facts]], *about: Any) -> Facts:
    """What all who registered know about something."""
    return {name: value for fact in facts for name, value in fact(*about).items()}
