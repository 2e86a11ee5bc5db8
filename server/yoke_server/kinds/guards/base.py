"""The protocol of guards: a limit of a channel with what happens beyond it."""

from collections.abc import Mapping
from enum import StrEnum
from math import inf
from typing import TYPE_CHECKING, Annotated, ClassVar, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.guards.watching import GuardWatch


class GuardAction(StrEnum):
    """What happens when a guard trips; each is a marker of the run too."""

    WARN = "warn"
    STOP = "stop"  # the run ends, what moves stands
    HOLD = "hold"  # what moves stands, the run goes on until a person decides
    UNLOAD = "unload"  # the programme ends gently, without load; what cannot, stands


class Guard(Spec):
    """A limit of one channel, looked at in every sample before it is stored.

    debounce_s : for so long in one go the channel must be beyond it
    ``sees`` says whether the channel is still read once it has tripped: else nothing may move.
    """

    sees: ClassVar[bool] = True

    channel: fields.Key
    action: Annotated[GuardAction, Field(strict=False)] = GuardAction.HOLD
    debounce_s: Annotated[float, fields.between(0, 60)] = 0.0

    @model_validator(mode="after")
    def _moves_nothing_unseen(self) -> Self:
        if self.action is GuardAction.UNLOAD and not self.sees:
            raise PydanticCustomError("rule", "cannot unload: nobody would see what moves")
        return self

    @property
    def bounds(self) -> tuple[float, float]:
        """Between which a reading (SI) is let pass."""
        return -inf, inf

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        """Why it could not look."""
        lack = setup.unwatchable(self.channel)
        return [lack] if lack else []

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self.model_copy(update={"channel": keys.get(self.channel, self.channel)})

    def watch(self, setup: MeasuringSetup) -> "GuardWatch":
        """It at work; raises SignalError where it `lacks` something."""
        raise NotImplementedError
