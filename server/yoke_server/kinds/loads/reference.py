from collections.abc import Sequence
from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.loads.base import Loads, Values
from yoke_server.kinds.measured import MeasuredChannel


class ReferenceChannel(Loads):
    """Another channel that feels the same load, by an instrument with a certificate."""

    kind: Literal["reference_channel"] = "reference_channel"
    channel: fields.Key
    values: Values

    @property
    def nominal(self) -> list[float]:
        return self.values

    @property
    def reference(self) -> str:
        return self.channel

    @property
    def sentence(self) -> str:
        return "Against a reference in series."

    def lacks(self, channel: MeasuredChannel, others: Sequence[MeasuredChannel]) -> Lack | None:
        if self.channel == channel.key:
            said = f"{channel.name} cannot be its own reference."
            return Lack(said, "Choose another channel.")
        found = next((c for c in others if c.key == self.channel), None)
        if found is None:
            return Lack("The reference is no channel of this setup.", "Wire it, or choose another.")
        if found.quantity != channel.quantity:
            return Lack(
                f"{found.name} measures {found.quantity}, and {channel.name} {channel.quantity}.",
                "Choose a reference of the same quantity.",
            )
        return None
