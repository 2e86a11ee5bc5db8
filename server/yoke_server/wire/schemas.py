from typing import Annotated

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Answer, Body, Id, Text, unset
from yoke_server.kinds.channel_specs import ConditioningSpec, WiringSpec


class ChannelIn(Body):
    input_id: Id
    sensor_id: Id
    name: fields.Name


class ChannelChange(Body):
    """Wiring and display of a channel; what is left out stays."""

    name: fields.Name = unset()
    wiring: WiringSpec = unset()
    conditioning: ConditioningSpec = unset()
    recorded: bool = unset()
    zero_each_run: bool = unset()
    zero_by_itself: bool = unset()
    unit: Annotated[str, Text(1, 12)] = unset()
    decimals: fields.Decimals = unset()


class ChannelOfMany(ChannelChange):
    id: Id


class ManyChannels(Body):
    """Changes of many channels that are one action."""

    channels: Annotated[list[ChannelOfMany], Field(min_length=1, max_length=512)]


class HeatingOut(Answer):
    """Power of an excited grid over its area, and what the part under it carries.

    ``best_v`` is the highest excitation that it carries; 0 where none does. Of a part that is
    not named only the power is known.
    """

    density_w_m2: float
    carries_w_m2: float | None = None
    best_v: float | None = None
    passed: bool | None = None
