"""What legs have in common that look at one channel."""

from collections.abc import Mapping
from typing import Self

from yoke_server.common.http import fields
from yoke_server.kinds.legs.base import Leg


class ChannelLeg(Leg):
    """A leg that looks at a channel."""

    channel: fields.Key

    @property
    def channels(self) -> tuple[str, ...]:
        return (self.channel,)

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"channel": keys.get(self.channel, self.channel)})
