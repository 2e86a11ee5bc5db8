"""What stops have in common that look at one channel, of which a setup may have several."""

from collections.abc import Mapping
from typing import ClassVar, Self

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.stops.base import Stop


class ChannelStop(Stop):
    """A stop that looks at a channel."""

    is_single: ClassVar = False

    channel: fields.Key

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        lack = setup.unwatchable(self.channel)
        return [lack] if lack else []

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"channel": keys.get(self.channel, self.channel)})
