"""Orders that measure channels at rest: zeros, tares and shunt checks."""

from yoke_server.kinds.orders.measuring import CheckShunts, MeasureAtRest
from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.control.bench_context import BenchContext, sentence
from yoke_server.record.recorder.control.rest_measurement import RestMeasurement
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.stream.positioned import PositionedBlock


class ZeroController:
    """At most one such order at a time."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context
        self._resting: RestMeasurement | None = None

    def measure(self, order: events.OrderIn[MeasureAtRest]) -> None:
        """For a zero or a tare."""
        self._begin(order, Phase.MEASURING)

    def check_shunts(self, order: events.OrderIn[CheckShunts]) -> None:
        self._begin(order, Phase.SHUNTING)

    def _begin(self, order: events.OrderIn[MeasureAtRest | CheckShunts], phase: Phase) -> None:
        context = self._context
        channels = context.chosen(order.order.channels)
        context.require_measurable(set(channels))
        ports = {label: context.devices[label].port for label in channels}
        context.enter(phase)
        self._resting = RestMeasurement(
            order.key, channels, ports, context.now, shunt=phase is Phase.SHUNTING
        )

    def push_block(self, device: str, placed: PositionedBlock) -> None:
        if self._resting:
            self._resting.push_block(device, placed)
            self._go_on()

    def on_status(self, event: events.StatusRead) -> None:
        if not self._resting or event.token != self._resting.order_key:
            return
        if event.problem or event.status is None:
            self.end(f"{event.device} does not say what it samples: {event.problem}")
            return
        self._resting.measure_since(event.device, event.status)

    def on_shunt(self, event: events.ShuntSet) -> None:
        if not self._resting or event.token != self._resting.order_key:
            return
        if event.problem or event.since is None:
            self.end(f"{event.device} does not switch its shunt: {event.problem}")
            return
        self._resting.switched(event.device, event.shunt_ohm, event.since)

    def _go_on(self) -> None:
        resting = self._resting
        if resting and (answer := resting.go_on()) is not None:
            self._resting = None
            self._context.done(resting.order_key, answer.model_dump())
            if self._context.phase is Phase.SHUNTING:
                self._confirm_anew(resting)
            self._context.be_idle()

    def _confirm_anew(self, resting: RestMeasurement) -> None:
        """Shunts are to be confirmed off before any sample counts again, and peaks begin anew."""
        for label in resting.devices:
            self._context.devices[label].in_force = None

    def give_up(self, device: str, why: str) -> None:
        if self._resting and device in self._resting.devices:
            self.end(why)

    def tick(self) -> None:
        if self._resting and (over := self._resting.overdue(self._context.now)):
            self.end(over)

    def end(self, why: str) -> None:
        """Given up, if there is one: shunts off again, whatever was reached."""
        resting, self._resting = self._resting, None
        if resting is None:
            return
        resting.shunts_off()
        self._confirm_anew(resting)
        self._context.refuse(resting.order_key, sentence(why))
        self._context.be_idle()
