"""From a start order to a run: settings confirmed, the run written, then the motion."""

from yoke_server.record.models import RunState
from yoke_server.record.recorder.control.bench_context import BenchContext, not_taken, sentence
from yoke_server.record.recorder.control.bench_device import conditioning
from yoke_server.record.recorder.control.pending_start import PendingStart
from yoke_server.record.recorder.control.run_controller import RunController
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import Phase, Refused
from yoke_server.record.recorder.storage.writer import Begin

ARMING = 6.0  # s in which devices confirm their settings


class RunStarter:
    """At most one start order at a time; one that was stopped never becomes a run that moves."""

    def __init__(self, context: BenchContext, run: RunController) -> None:
        self._context = context
        self._run = run
        self._starting: PendingStart | None = None

    @property
    def under_way(self) -> bool:
        return self._starting is not None

    def start(self, order: events.OrderIn) -> None:
        """Arm: settings in force and read back; the run begins with the samples after that."""
        context, setup = self._context, order.setup
        if setup is None:
            raise Refused("The order names no setup that is known.")
        wanted = {c.device_label: conditioning(setup, c.device_label) for c in setup.channels}
        if not wanted:
            raise Refused("There is no channel to record.", "Wire one first.")
        context.require_usable(set(wanted))
        pull = bool(order.arguments.get("pull")) and setup.motion.moves
        if pull:
            context.motion.require_ready()
        self._starting = PendingStart(
            order.key, int(order.arguments["revision"]), order.arguments.get("operator"), pull,
            context.now + ARMING, setup, set(wanted),
        )  # fmt: skip
        context.enter(Phase.ARMING)
        for label, settings in wanted.items():
            assert settings is not None
            context.devices[label].in_force = None
            context.devices[label].port.configure(order.key, *settings)

    def waits_for(self, token: str) -> bool:
        return self._starting is not None and token == self._starting.order_key

    def on_configured(self, event: events.Configured) -> None:
        """A device's answer about the settings of the run to begin."""
        starting = self._starting
        assert starting is not None
        if event.status is None:
            self.call_off(not_taken(event.device, event.problem))
        else:
            settings = conditioning(starting.setup, event.device)
            self._context.devices[event.device].in_force = settings
            starting.waiting.discard(event.device)
            starting.since[event.device] = event.status

    def tick(self) -> None:
        starting, context = self._starting, self._context
        if starting is None or context.phase is not Phase.ARMING:
            return
        if context.now > starting.until:
            who = ", ".join(sorted(starting.waiting)) or "A device"
            self.call_off(f"{who} did not confirm its settings in time")
        elif plan := starting.make_plan(context.devices):
            context.enter(Phase.BEGINNING)
            context.parts.writer.put(Begin(plan))

    def on_lost(self, device: str, why: str) -> None:
        starting = self._starting
        if starting and device in starting.waiting | set(starting.since):
            self.call_off(why)

    def call_off(self, why: str) -> None:
        """A start that was stopped, or cannot be, is past: whatever comes of it later."""
        starting = self._starting
        if starting is None:
            return
        starting.call_off(sentence(why))
        if self._context.phase is Phase.ARMING:
            self._give_up(f"The run did not begin. {sentence(why)}")

    def on_not_begun(self, event: events.NotBegun) -> None:
        if self.waits_for(event.order_key):
            self._give_up(f"The run did not begin. {event.why}")

    def _give_up(self, why: str) -> None:
        starting, self._starting = self._starting, None
        assert starting is not None
        self._context.refuse(starting.order_key, why)
        self._context.be_idle()

    def on_began(self, event: events.Began) -> None:
        if not self.waits_for(event.order_key):
            return
        starting, self._starting = self._starting, None
        assert starting is not None and starting.plan is not None
        context, run = self._context, self._run
        tracks = {
            label: run.track(
                label, starting.setup, (event.run_id, event.streams[label]), place=place
            )
            for label, place in starting.first_places(context.devices).items()
        }
        run.record(event.run_id, event.run_name, starting.setup, starting.plan.start_ns, tracks)
        for label, track in tracks.items():
            for block in starting.blocks(context.devices, label):
                track.push(block, None, context.now)
        if starting.stopped:
            run.end(RunState.INTERRUPTED, f"Before it had begun: {starting.stopped}")
        elif starting.pull:
            run.pull(starting.order_key)
