"""From a start order to a run: settings confirmed, the run written, then the motion."""

from collections.abc import Mapping

from yoke_core.errors import CoreError

from yoke_server.kinds.keep_rules.base import main_of, names_of
from yoke_server.kinds.orders.runs import StartRun
from yoke_server.live.protocol import Phase
from yoke_server.record.models import RunState
from yoke_server.record.recorder.control.bench_context import BenchContext, refusal_of, sentence
from yoke_server.record.recorder.control.bench_device import conditioning
from yoke_server.record.recorder.control.pending_start import PendingStart
from yoke_server.record.recorder.control.run_controller import RunController
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import Refused
from yoke_server.record.recorder.model.progress import KeptStream, Place, StreamName
from yoke_server.record.recorder.storage.work import Begin
from yoke_server.record.recorder.stream.guards import Guards
from yoke_server.record.recorder.stream.stop_conditions import stop_conditions_of
from yoke_server.record.runs import layout_of, planes_of
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.watched import WatchedSetup


def require_watchable(setup: FrozenSetup) -> None:
    """Raise CoreError of what could not be looked at in the samples."""
    stop_conditions_of(setup)
    Guards(setup)
    watched = WatchedSetup(setup)
    for rule in setup.keep_rules:
        rule.decider(watched)
    setup.trigger.watch(watched)
    for part in setup.motion.parts:
        part.watch(watched)


def fresh_streams(
    setup: FrozenSetup, streams: Mapping[StreamName, int]
) -> dict[StreamName, KeptStream]:
    """The streams of a run that begins, but for the main ones; ``streams``: their ids."""
    main = main_of(setup.keep_rules)
    layouts = dict(zip(names_of(setup.keep_rules), map(layout_of, setup.keep_rules), strict=True))
    return {
        (label, rule): KeptStream.fresh(
            stream_id, *planes_of(layouts[rule], setup.of_device(label))
        )
        for (label, rule), stream_id in streams.items()
        if not main or rule != main[0]
    }


ARMING = 6.0  # s in which devices confirm their settings


class RunStarter:
    """At most one start order at a time; one that was stopped never becomes a run that moves."""

    def __init__(self, context: BenchContext, run: RunController) -> None:
        self._context = context
        self._run = run
        self._pending: PendingStart | None = None

    def start(self, order: events.OrderIn[StartRun]) -> None:
        """Arm: settings in force and read back; the run begins with the samples after that."""
        context, setup = self._context, order.setup
        if setup is None:
            raise Refused("The order names no setup that is known.")
        wanted = {c.device_label: conditioning(setup, c.device_label) for c in setup.channels}
        if not wanted:
            raise Refused("There is no channel to record.", "Wire one first.")
        context.require_usable(set(wanted))
        try:
            require_watchable(setup)
        except CoreError as error:
            hint = error.hint or "Change it under Calibrate."
            raise Refused(f"The run cannot be watched: {error}", hint) from None
        pull = order.order.pull and bool(setup.motion.parts)
        if pull and setup.motion.moves:
            context.actuators.require_ready(setup.motion)
        self._pending = PendingStart(order, pull, context.now + ARMING, setup, set(wanted))
        context.enter(Phase.ARMING)
        for label, settings in wanted.items():
            assert settings is not None
            context.devices[label].in_force = None
            context.devices[label].port.configure(order.key, *settings)

    def waits_for(self, token: str) -> bool:
        return self._pending is not None and token == self._pending.order.key

    def on_configured(self, event: events.Configured) -> None:
        """A device's answer about the settings of the run to begin."""
        pending, status = self._pending, event.status
        assert pending is not None
        if status is None:
            self.call_off(refusal_of(event.device, event.problem))
        else:
            settings = conditioning(pending.setup, event.device)
            self._context.devices[event.device].in_force = settings
            pending.waiting.discard(event.device)
            pending.places[event.device] = Place(status.acquisition, status.next)

    def tick(self) -> None:
        pending, context = self._pending, self._context
        if pending is None or context.phase is not Phase.ARMING:
            return
        if context.now > pending.until:
            self.call_off(self._why_too_long(pending))
        elif plan := pending.make_plan(context.devices):
            context.enter(Phase.BEGINNING)
            context.parts.writer.put(Begin(plan))

    def _why_too_long(self, pending: PendingStart) -> str:
        if not pending.waiting and (unsure := pending.unsure(self._context.devices)):
            return f"It is not known yet how the clock of {', '.join(unsure)} runs"
        who = ", ".join(sorted(pending.waiting)) or "A device"
        return f"{who} did not confirm its settings in time"

    def on_restart(self, device: str, acquisition: int) -> None:
        """A device that begins anew after it confirmed its settings no longer has them."""
        place = self._pending.places.get(device) if self._pending else None
        if place and place.acquisition != acquisition:
            self.call_off(f"{device} began anew")

    def on_lost(self, device: str, why: str) -> None:
        pending = self._pending
        if pending and device in pending.waiting | set(pending.places):
            self.call_off(why)

    def call_off(self, why: str) -> None:
        """A start that was stopped, or that cannot be carried out, never begins a motion later."""
        pending = self._pending
        if pending is None:
            return
        pending.call_off(sentence(why))
        if self._context.phase is Phase.ARMING:
            self._give_up(f"The run did not begin. {sentence(why)}")

    def on_not_begun(self, event: events.NotBegun) -> None:
        if self.waits_for(event.order_key):
            self._give_up(f"The run did not begin. {event.why}")

    def _give_up(self, why: str) -> None:
        pending, self._pending = self._pending, None
        assert pending is not None
        self._context.refuse(pending.order.key, why)
        self._context.be_idle()

    def on_began(self, event: events.Began) -> None:
        if not self.waits_for(event.order_key):
            return
        pending, self._pending = self._pending, None
        assert pending is not None and pending.plan is not None
        run = self._run
        plan = pending.plan
        recording = run.record(
            event.run_id, event.run_name, pending.setup, plan.start_ns, plan.is_dry
        )
        run.keep(recording, fresh_streams(pending.setup, event.streams))
        main = main_of(pending.setup.keep_rules)
        for label, place in pending.places.items():
            stream_id = event.streams[label, main[0]] if main else None
            run.add_track(label, place, stream_id, computed=event.computed)
        if pending.stopped:
            run.end(RunState.INTERRUPTED, f"Before it had begun: {pending.stopped}")
        elif pending.pull:
            try:
                run.begin_motion(pending.order)
            except Refused as refused:
                run.end(RunState.INTERRUPTED, f"The actuator did not move: {refused}")
