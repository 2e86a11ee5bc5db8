"""Faults put into the recorder on purpose: the search must find them.

A mutant is a place in the recorder's source and what stands there instead. It is tried in a
child process, so that nothing of it stays. ``tries`` courses are played; the one that found it
last is kept in ``mutants_found.json`` and played first.
"""

import importlib
import inspect
import json
import multiprocessing
import sys
import types
from dataclasses import dataclass
from pathlib import Path
from typing import Any

ROOM = "yoke_server.record.recorder."
FOUND = Path(__file__).with_name("mutants_found.json")


@dataclass(frozen=True, slots=True)
class Mutant:
    name: str
    module: str
    old: str
    new: str


def _m(name: str, module: str, old: str, new: str) -> Mutant:
    return Mutant(name, ROOM + module, old, new)


PERMIT, PORT = "control.permit", "ports.actuator_port"
ACTUATORS, RUN, STARTER = "control.actuators", "control.run_controller", "control.run_starter"
RUNNER, RECORDING, TRACK = "runner", "control.recording", "control.track"
LINE, ORDER, TIME = "stream.device_line", "stream.block_order", "stream.timeline"
KEEP, ENDS, RING = "stream.writer", "stream.stop_conditions", "stream.ring"
WRITER, RUNS, RESUME = "storage.writer", "storage.runs", "storage.resume"
BENCH, STOPS, SIGN, ORDERS = (
    "storage.bench_database", "orders.stop_listener", "orders.life_sign", "orders.listener",
)  # fmt: skip
ZERO, REST = "control.zero_controller", "control.rest_measurement"

MUTANTS = [
    # The permit
    _m("a stop revokes no permit", PERMIT,
       "            for motion in self._motions.values():\n                motion.permit.revoke()\n",
       ""),
    _m("what was requested before a stop may begin", PERMIT,
       "            if requested_at <= self._newest_stop:\n                raise Refused(\"It was",
       "            if False:\n                raise Refused(\"It was"),
    _m("an emergency stop does not latch", PERMIT,
       "            if self.latch:\n                raise", "            if False:\n                raise"),
    _m("a motion begins after its order's life", PERMIT,
       "if self._monotonic() >= deadline:", "if False:"),
    _m("a permit is renewed whatever the phase", PERMIT,
       "\"\" if phase in motion.phases else", "\"\" if True else"),
    _m("a permit is renewed though nobody sees", PERMIT,
       "why = why_not or in_phase or motion.watched()", "why = why_not or in_phase"),
    _m("a permit that ran out is renewed", "model.permit",
       "        if self.holds(now):\n            self._until = now + PERMIT_S\n        else:\n"
       "            self.revoke()\n",
       "        self._until = now + PERMIT_S\n"),
    _m("a permit holds for ten seconds", "model.permit", "PERMIT_S = 0.8", "PERMIT_S = 10.0"),
    _m("a database that takes nothing is not minded", ACTUATORS,
       "why_not = \"the database takes nothing\" if unwritten else \"\"", "why_not = \"\""),
    _m("the age of samples is not minded", RUN,
       "device.line.age_s > UNSEEN * context.clock.speed", "False"),
    _m("a run that has what ends it moves on", RUN,
       "        if recording.triggered or recording.fault:\n"
       "            return recording.fault or recording.triggered\n", ""),
    # The actuator's port
    _m("a motion begins without looking at its permit", PORT,
       "        if not permit.holds(self._clock.monotonic()):\n"
       "            problem = \"it was stopped before.\"\n        else:\n"
       "            problem = self._do(order.begin)",
       "        problem = self._do(order.begin)"),
    _m("without a permit it is only looked at", PORT,
       "problem = self._do(lambda d: d.stop(), without_control=bool(tokens))", "problem = \"\""),
    _m("a stop that is not confirmed is followed by more words", PORT,
       "        if problem and self._driver:  # it is there, and did not confirm\n"
       "            self._fall_silent(problem)\n",
       "        if problem:\n            self._do(lambda d: d.state() and None)\n"),
    _m("a motion of another name is let go on", PORT,
       "state.moving and state.motion_id != self._permit.motion_id", "False"),
    _m("a stop is dropped while something may move", PORT,
       "        if self._may_move() and not stops:", "        if self._may_move():"),
    _m("a stop is never confirmed", PORT,
       "            self._emit(ActuatorCommandFinished(self.label, STOP, token, problem))", "            pass"),
    # The run
    _m("the run ends without a stop first", RUN,
       "        context, recording = self._context, self.recording\n        context.actuators.stop_all()\n",
       "        context, recording = self._context, self.recording\n"),
    _m("the end is seen and nothing is stopped until the tail is over", RUN,
       "        self._context.actuators.stop_all()\n        log.info(\"%s\", why)", "        log.info(\"%s\", why)"),
    _m("closing does not wait for the database", RUN,
       "        context.enter(Phase.CLOSING)\n        context.parts.writer.put(self._closing)",
       "        context.enter(Phase.CLOSING)\n        context.parts.writer.put(self._closing)\n"
       "        context.be_idle()"),
    _m("a device that begins anew goes on in the run", TRACK,
       "        self._fault(self.device, \"began anew, so its samples no longer fit on\")", "        pass"),
    _m("what is held behind a gap is thrown away at the end", TRACK, "        self.line.flush()\n", ""),
    _m("a lost device does not end a beginning", STARTER,
       "        if pending and device in pending.waiting | set(pending.places):\n            self.call_off(why)",
       "        pass"),
    _m("a stop does not call a beginning off", RUNNER, "        self.starter.call_off(stop.why)\n", ""),
    _m("a beginning is not given up in time", STARTER, "if context.now > pending.until:", "if False:"),
    _m("expired orders are accepted", RUNNER, "if context.now >= order.deadline:", "if False:"),
    _m("orders are taken in every phase", RUNNER, "if order.kind not in TAKEN[context.phase]:", "if False:"),
    _m("what was reached is not gone on from", RUN, "        recording.resume(event.progress)\n", ""),
    _m("a run is taken up by no recorder", RESUME, "    run = session.open_run()\n", "    run = None\n"),
    _m("a run that cannot be read stays open", RESUME,
       "        close_run(session, Close(run.run_id, RunState.INTERRUPTED, UNREADABLE, _ends(session, run)))\n",
       ""),
    # The line
    _m("the run's first block is dropped", LINE,
       "            for placed in self.ring.since(since.acquisition, since.sequence):",
       "            for placed in self.ring.since(since.acquisition, since.sequence + 1):"),
    _m("missing blocks are not asked for", ORDER, "            self.ask(self.next, min(self._held) - 1)", "            pass"),
    _m("a refill is given up after 0.6 s", ORDER, "GIVE_UP_AFTER = 5.0", "GIVE_UP_AFTER = 0.6"),
    _m("a block that comes twice is taken twice", ORDER,
       "block.acquisition != self.acquisition or block.sequence < self.next",
       "block.acquisition != self.acquisition"),
    _m("samples lie a second off", TIME,
       "        return self._clock.host_ns(block.time_ns) - reckoned",
       "        return self._clock.host_ns(block.time_ns) - reckoned - 1_000_000_000"),
    _m("a clock that is put moves the samples", TIME,
       "return abs(block.time_ns - expected_ns) > STEP_NS + doubt", "return False"),
    _m("a gap takes no time", TIME,
       "            passed = length if was_put else block.time_ns - reached", "            passed = 0"),
    _m("old blocks are placed by today's clock", TIME,
       "if block.again or not self._trusts_clock():", "if not self._trusts_clock():"),
    _m("what is missing is not counted", KEEP,
       "        missing = block.sequence - self._next\n", "        missing = 0\n"),
    _m("the ring keeps everything", RING,
       "(self._budget.is_exceeded or self._is_old(placed))", "self._budget.is_exceeded"),
    # Conditions
    _m("the force's drop is not seen", ENDS, "return self._watch.push(force) is not None", "return False"),
    _m("a force without a reading is not noticed", ENDS,
       "if self._clipped >= BLIND * self._rate_hz:", "if False:"),
    _m("cycles are not counted", ENDS,
       "return self.max_cycles is not None and done >= self.max_cycles", "return False"),
    _m("time is never up", RECORDING, "self.elapsed_s >= seconds", "False"),
    # Storage
    _m("the seal leaves out the last row", KEEP,
       "        self.flush()\n        return self._envelope.finish()",
       "        chain = self.chain\n        self.flush()\n        self.chain = chain\n"
       "        return self._envelope.finish()"),
    _m("rows are forgotten as soon as they are written", WRITER,
       "        self._written.add_rows(rows, position, self._clock.monotonic())\n", ""),
    _m("rows are not written again after a crash", WRITER,
       "            self._database.write(self._written.rows)\n", ""),
    _m("rows written again count as flushed", WRITER,
       "            self._written.restamp(self._database.log_positions()[0])\n", ""),
    _m("written rows are kept for ever", WRITER, "self._rows[0][0] <= flushed", "False"),
    _m("a full queue is not noticed", RUN,
       "        if self._context.parts.writer.full:\n", "        if False:\n"),
    _m("samples refused for good are dropped in silence", WRITER,
       "            self._emit(WriteRefused(run_id, why))", "            pass"),
    _m("a run is begun again after a lost answer", RUNS,
       "    if run := session.find_run(plan.order_key):\n        return run", "    if False:\n        return None"),
    _m("a run that was called off begins", RUNS, "    if plan.cancelled:\n", "    if False:\n"),
    _m("an order that was given up begins a run", RUNS,
       "        if not session.finish_order(plan.order_key):\n", "        if session.finish_order(plan.order_key) is None:\n"),
    _m("a run is closed twice", RUNS,
       "        if state is None or work.state not in FOLLOWING[state]:\n            return\n", ""),
    _m("the bench is taken from who lives", BENCH, "        if other_lives:", "        if False:"),
    _m("a dead session keeps the bench", BENCH,
       "            self._session.end_lock_holder()  # a session that nobody uses any more\n", ""),
    # Orders, stops and signs
    _m("a stop is heard and nothing is told", STOPS, "        self._hear(stop)\n", "        pass\n"),
    _m("stops of before a connection are not looked for", STOPS,
       "            if not is_carried_out:\n                self._take(stop)", "            if False:\n                pass"),
    _m("an emergency of before is not latched", STOPS,
       "            elif stop.emergency:\n                self._latch(stop)", "            elif False:\n                pass"),
    _m("the sign of life says that it wrote", SIGN,
       "            self._session.close()\n            return False\n        return True",
       "            self._session.close()\n            self.written_at = asked_at\n            return False\n        return True"),
    _m("who lost the bench goes on", SIGN, "            self._emit(BenchTaken())", "            pass"),
    _m("orders of a dead recorder stay claimed", ORDERS, "        self._session.give_back_claimed()\n", ""),
    _m("answers are forgotten when the connection breaks", ORDERS,
       "                if will_pass(error):\n                    raise\n",
       "                if will_pass(error):\n                    self._writing = None\n                    raise\n"),
    # Measuring at rest
    _m("a shunt stays on when a check is given up", REST,
       "        if self._off is not None:\n            self._switch(False)", "        pass"),
    _m("a lost device does not end a measurement", ZERO,
       "        if self._resting and device in self._resting.devices:\n            self.end(why)", "        pass"),
    _m("a measurement is never overdue", REST,
       "if now > self._until else \"\"", "if False else \"\""),
]  # fmt: skip


def apply(mutant: Mutant) -> None:
    """Put it into this process. Raises ValueError where its place is not there exactly once."""
    module = importlib.import_module(mutant.module)
    source = inspect.getsource(module)
    if source.count(mutant.old) != 1:
        raise ValueError(f"{mutant.name}: its place stands {source.count(mutant.old)} times")
    fresh = types.ModuleType(module.__name__)
    fresh.__dict__.update({k: v for k, v in vars(module).items() if k.startswith("__")})
    sys.modules[module.__name__] = fresh  # dataclasses look their module up
    exec(compile(source.replace(mutant.old, mutant.new), module.__file__ or "", "exec"), vars(fresh))
    sys.modules[module.__name__] = module
    for name, new in vars(fresh).items():
        old = vars(module).get(name)
        if isinstance(old, type) and old.__module__ == module.__name__:
            _graft(old, new)
        elif old is not new and not name.startswith("__") and not isinstance(old, type):
            _replace(name, old, new)


def _graft(old: type, new: type) -> None:
    """The methods of a class as they stand now."""
    for name, member in vars(new).items():
        if isinstance(member, types.FunctionType | property | classmethod | staticmethod):
            setattr(old, name, member)


def _replace(name: str, old: Any, new: Any) -> None:
    """A function or constant, wherever it was imported."""
    for module in list(sys.modules.values()):
        if vars(module).get(name) is old and getattr(module, "__name__", "").startswith("yoke_"):
            setattr(module, name, new)


def hunted(mutant: Mutant, seeds: list[int]) -> tuple[int, str] | None:
    """The first of these courses that breaks a rule with the mutant, and why; in a child."""
    context = multiprocessing.get_context("fork")
    ours, theirs = context.Pipe(duplex=False)
    child = context.Process(target=_hunt, args=(mutant, seeds, theirs))
    child.start()
    theirs.close()
    try:
        return ours.recv()
    except EOFError:
        raise ValueError(f"{mutant.name}: the hunt itself failed") from None
    finally:
        child.join()


def _hunt(mutant: Mutant, seeds: list[int], answer: Any) -> None:
    import logging

    from tests.simulation.schedules import drawn

    logging.disable(logging.CRITICAL)
    apply(mutant)
    for seed in seeds:
        if why := drawn(seed)[0]:
            answer.send((seed, why))
            return
    answer.send(None)


def found_before() -> dict[str, int]:
    """By mutant, the course that found it last."""
    return json.loads(FOUND.read_text()) if FOUND.exists() else {}


def seeds_for(mutant: Mutant, tries: int) -> list[int]:
    """The one that found it last comes first."""
    last = found_before().get(mutant.name)
    return [*([] if last is None else [last]), *range(tries)]
