"""What results of one channel over a stretch of a run have in common."""

from typing import Any, ClassVar

from yoke_server.derive.inputs import channel_of
from yoke_server.derive.kinds.base import Offer, ResultKind
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.readable import by_key, readable_channels


class ChannelResult(ResultKind):
    """``noun``: what it is of a channel. Its parameters have a ``channel`` and a ``stretch``."""

    noun: ClassVar[str]

    def offers(self, setup: FrozenSetup) -> list[Offer]:
        """One offer a channel, none of them suggested: the channel is a person's choice."""
        return [
            Offer(f"{self.noun} of {c.name}", self.parameters.model_validate({"channel": c.key}))
            for c in readable_channels(setup)
        ]

    def subject(self, parameters: Any, setup: FrozenSetup) -> str:
        found = by_key(readable_channels(setup), parameters.channel)
        return f"of {found.name}" if found else ""

    def channels(self, parameters: Any, setup: FrozenSetup) -> list[str]:
        return [parameters.channel, *parameters.stretch.channels]

    def check(self, parameters: Any, setup: FrozenSetup) -> None:
        for key in self.channels(parameters, setup):
            channel_of(setup, key)
