"""The protocol of reading steps: what is done to a channel's reading behind its scaling."""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import TYPE_CHECKING, ClassVar, Self

from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_core.scaling.line import Line
    from yoke_core.signals.filter_design import Design
    from yoke_core.signals.node import Node


class ReadingStep(Spec):
    """One step of a channel's reading. One that is off stays in the list and changes nothing."""

    title: ClassVar[str]
    stateful: ClassVar[bool] = True  # whether it needs earlier samples or another channel
    keeps_level: ClassVar[bool] = True  # whether a steady reading comes out much as it went in

    on: bool = True

    @property
    def channels(self) -> tuple[str, ...]:
        """Keys of the other channels that it needs."""
        return ()

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self

    def lacks(
        self, channel: MeasuredChannel, others: Sequence[MeasuredChannel], rate_hz: float
    ) -> Lack | None:
        """Why it cannot be a step of a channel among others; None if it can."""
        return None

    def put_in_place_of(self, before: "Self | None", today: date) -> Self:
        """The step as it is kept, where it was another one or none before."""
        return self

    def asks_for(self, channel: MeasuredChannel, today: date) -> Lack | None:
        """What a person should read anew before a run; None where nothing is."""
        return None

    def design(self) -> "Design | None":
        """The filter that it is; None of one that is no filter."""
        return None

    def settling_samples(self, rate_hz: float) -> int:
        """How many samples at a rate it needs after a gap until its output is known."""
        design = self.design()
        if design is None:
            return 0
        from yoke_core.signals.filter_design import settling_samples

        return settling_samples(design.sections(rate_hz))

    def line(self) -> "Line":
        """The step as part of the scaling's chain; of one that is not ``stateful``."""
        raise NotImplementedError

    def node(self, channel: MeasuredChannel, reading: "Node") -> "Node":
        """The reading behind the step, in SI; of one that is ``stateful``."""
        raise NotImplementedError
