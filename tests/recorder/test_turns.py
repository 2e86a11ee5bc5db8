"""One bench's events from many threads: one at a time, in the order of each."""

import threading
import time

import pytest
from yoke_server.record.recorder.bench_thread import BenchThread
from yoke_server.record.recorder.clock import SystemClock

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


def served(deeds):
    """Run these beside a bench's own thread until all is handled."""
    bench, probe = BenchThread(1, SystemClock(), 1 << 20), Probe()
    bench._recorder = probe
    own = threading.Thread(target=bench._serve)
    own.start()
    others = [threading.Thread(target=deed, args=(bench,)) for deed in deeds]
    for other in others:
        other.start()
    for other in others:
        other.join()
    wanted = EACH * len(deeds)
    until = time.monotonic() + 10
    while len(probe.seen) < wanted and time.monotonic() < until:
        time.sleep(0.01)
    bench.ask_to_end()
    own.join()
    return bench, probe


def blocks(name):
    def deed(bench):
        for i in range(EACH):
            bench._deliver((name, i))

    return deed


def orders(name):
    def deed(bench):
        for i in range(EACH):
            bench._emit((name, i))

    return deed


def test_events_of_many_threads_are_handled_one_at_a_time_and_in_order():
    _, probe = served([blocks("A1"), blocks("A2"), orders("desk"), orders("actuator")])
    assert probe.at_once == 0
    for name in ("A1", "A2", "desk", "actuator"):
        assert [i for who, i in probe.seen if who == name] == list(range(EACH))
    assert probe.ticks > 1


@pytest.mark.parametrize("why", ["left", "taken"])
def test_nothing_is_handled_once_the_bench_was_left_or_taken(why):
    bench, probe = served([])
    bench._left, probe.taken = why == "left", why == "taken"
    bench._emit(("desk", 0))
    bench._deliver(("A1", 0))
    assert probe.seen == []
