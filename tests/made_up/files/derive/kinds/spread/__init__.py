"""A made-up kind of result: from where to where a channel went."""

from typing import Any, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.derive.inputs import channel_of, whole
from yoke_server.derive.kinds.base import Column, Columns, Computed, Offer, ResultKind, Value
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.record.queries import document_of
from yoke_server.setups.document import FrozenSetup


class SpreadParameters(Spec):
    kind: Literal["spread"] = "spread"
    channel: fields.Key


class SpreadDetails(Spec):
    kind: Literal["spread"] = "spread"
    samples: int


class Spread(ResultKind):
    engine: ClassVar[int] = 1
    parameters: ClassVar[type[Spec]] = SpreadParameters
    details: ClassVar[type[Spec]] = SpreadDetails

    def offers(self, setup: FrozenSetup) -> list[Offer]:
        return [
            Offer(f"Spread of {c.name}", SpreadParameters(channel=c.key)) for c in setup.channels
        ]

    def subject(self, parameters: Any, setup: FrozenSetup) -> str:
        return channel_of(setup, parameters.channel).name

    def compute(self, run: Run, parameters: Any) -> Computed:
        channel = channel_of(document_of(run), parameters.channel)
        values = whole(run, channel.key)
        spread = float(values.max() - values.min())
        found = Value("S", "Spread", spread, channel.unit, 3, "highest less lowest")
        column = Column("values", channel.unit, values[:100])
        return Computed([found], SpreadDetails(samples=len(values)), [column])

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        words = f"{details['samples']} samples, from {len(columns['values'])} drawn"
        return f'<svg viewBox="0 0 200 20"><text x="2" y="14">{words}</text></svg>'


RESULT = Spread()
