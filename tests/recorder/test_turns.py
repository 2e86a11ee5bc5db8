"""One bench's events from many threads: one at a time, in the order of each."""

import threading
import time

import pytest
from yoke_server.record.recorder.bench_thread import TICK, BenchThread
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.stream.ring import MemoryBudget

from tests.processes import wait_for

EACH = 300


class Probe:
    """In place of the runner: notes what it is given, and whether that was one at a time."""

    taken = False

    def __init__(self):
        self.seen, self.at_once, self.ticks = [], 0, 0
        self._inside = threading.Lock()

    def handle(self, event):
        if not self._inside.acquire(blocking=False):
            self.at_once += 1
            return
        self.seen.append(event)
        time.sleep(1e-5)  # lets others in, were they let
        self._inside.release()

    def tick(self):
        self.ticks += 1

    def stop_now(self, stop):
        self.stopped = stop


def probed():
    """A bench whose runner is a probe; its thread does not run."""
    bench = BenchThread(1, SystemClock(), 1 << 20, MemoryBudget())
    bench._recorder = Probe()
    return bench, bench._recorder


def served(actions):
    """Run these beside a bench's own thread until all is handled."""
    bench, probe = probed()
    own = threading.Thread(target=bench._serve)
    own.start()
    others = [threading.Thread(target=action, args=(bench,)) for action in actions]
    for other in others:
        other.start()
    for other in others:
        other.join()
    wanted = EACH * len(actions)
    until = time.monotonic() + 10
    while len(probe.seen) < wanted and time.monotonic() < until:
        time.sleep(0.01)
    bench.ask_to_end()
    own.join()
    return bench, probe


def blocks(name):
    def action(bench):
        for i in range(EACH):
            bench._deliver((name, i))

    return action


def orders(name):
    def action(bench):
        for i in range(EACH):
            bench._emit((name, i))

    return action


def test_events_of_many_threads_are_handled_one_at_a_time_and_in_order():
    _, probe = served([blocks("A1"), blocks("A2"), orders("listener"), orders("actuator")])
    assert probe.at_once == 0
    for name in ("A1", "A2", "listener", "actuator"):
        assert [i for who, i in probe.seen if who == name] == list(range(EACH))
    assert probe.ticks > 1


def test_what_is_due_by_time_is_looked_at_with_blocks_and_without():
    bench, probe = probed()
    bench._deliver(("A1", 0))
    bench._deliver(("A1", 1))
    assert probe.ticks == 1  # not due again so soon
    time.sleep(TICK)
    bench._deliver(("A1", 2))
    assert probe.ticks == 2
    own = threading.Thread(target=bench._serve)
    own.start()
    wait_for(lambda: probe.ticks >= 4, "ticks while no block comes", 10)
    bench.ask_to_end()
    own.join()


def test_an_order_is_followed_by_a_look_at_once():
    bench, probe = probed()
    bench._tick_due = time.monotonic() + 60
    bench._emit(("listener", 0))
    bench._take_turn(rung=bench._wait())
    assert (probe.seen, probe.ticks) == ([("listener", 0)], 1)


def test_a_stop_is_in_force_at_once_and_comes_before_all_else():
    bench, probe = probed()
    bench._emit(("listener", 0))
    with bench._turn:  # somebody is busy
        bench._hear_stop("a stop")
        assert probe.stopped == "a stop"
    bench._take_turn()
    assert probe.seen == ["a stop", ("listener", 0)]


def test_a_fault_of_ours_in_a_ports_turn_ends_the_bench_not_the_device():
    bench, probe = probed()
    probe.tick = lambda: 1 / 0
    bench._deliver(("A1", 0))  # raises nothing: the device is well
    with pytest.raises(ZeroDivisionError):
        bench._serve()


def test_a_fault_of_ours_in_the_writer_ends_the_bench_which_is_begun_anew():
    bench, _ = probed()
    bench._writer.step = lambda: 1 / 0
    left = []
    bench._writing._database.leave = lambda: left.append("the bench")
    bench._writing.start()
    with pytest.raises(ZeroDivisionError):
        bench._serve()
    assert left == ["the bench"]


@pytest.mark.parametrize("why", ["left", "taken"])
def test_nothing_is_handled_once_the_bench_was_left_or_taken(why):
    bench, probe = probed()
    bench._left, probe.taken = why == "left", why == "taken"
    bench._emit(("listener", 0))
    bench._deliver(("A1", 0))
    assert (probe.seen, probe.ticks) == ([], 0)
