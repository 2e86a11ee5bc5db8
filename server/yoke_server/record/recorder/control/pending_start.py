"""A start order on its way to a run: settings confirmed, first blocks in, plan."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from yoke_server.kinds.keep_rules.base import KeepRule, main_of, names_of
from yoke_server.kinds.orders.runs import StartRun
from yoke_server.record.recorder.control.bench_device import BenchDevice
from yoke_server.record.recorder.model.events import OrderIn
from yoke_server.record.recorder.model.progress import Place, StreamOrigin
from yoke_server.record.recorder.storage.work import Plan, StreamPlan
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.runs import layout_of
from yoke_server.setups.document import FrozenSetup

Devices = Mapping[str, BenchDevice]


@dataclass(slots=True)
class PendingStart:
    """Devices that must still confirm their settings, and from where the others count."""

    order: OrderIn[StartRun]
    pull: bool
    until: float  # monotonic; later it is given up
    setup: FrozenSetup
    waiting: set[str]
    places: dict[str, Place] = field(default_factory=dict)
    plan: Plan | None = None  # once it is being written
    stopped: str = ""  # why it must not begin any more

    def call_off(self, why: str) -> None:
        self.stopped = self.stopped or why
        if self.plan:
            self.plan.cancelled = self.plan.cancelled or why

    def unsure(self, devices: Devices) -> list[str]:
        """Devices of whose samples it is not known yet when they were taken."""
        return sorted(label for label in self.places if not devices[label].line.is_sure)

    def make_plan(self, devices: Devices) -> Plan | None:
        """The run to begin, once each device's first confirmed block is here."""
        firsts = {
            label: devices[label].line.ring.since(place.acquisition, place.sequence)[:1]
            for label, place in self.places.items()
        }
        if self.waiting or not all(firsts.values()) or self.unsure(devices):
            return None
        wanted = self.order.order
        self.plan = Plan(
            self.order.key,
            wanted.revision,
            wanted.operator,
            min(placed.begin_ns for (placed,) in firsts.values()),
            [
                StreamPlan(
                    label,
                    name,
                    layout_of(rule),
                    placed.block.rate_hz / rule.factor(placed.block.rate_hz),
                    beginning_of(self.places[label], placed),
                    self.setup.of_device(label),
                )
                for name, rule in self._rules
                for label, (placed,) in firsts.items()
            ],
            is_dry=wanted.is_dry,
            accepted=wanted.accepted,
            answers=wanted.answers,
        )
        return self.plan

    @property
    def _rules(self) -> list[tuple[str, KeepRule]]:
        """By name, that of the main streams first."""
        rules = self.setup.keep_rules
        named = zip(names_of(rules), rules, strict=True)
        main = main_of(rules)
        return sorted(named, key=lambda one: main is None or one[0] != main[0])


def beginning_of(place: Place, first: PositionedBlock) -> StreamOrigin:
    """Where a stream begins whose first block in memory is ``first``, later ones may be lost."""
    lost = first.block.sequence - place.sequence
    length_ns = round(lost * first.block.samples * 1e9 / first.block.rate_hz)
    return StreamOrigin(place, first.block.time_ns - length_ns, first.begin_ns - length_ns)
