"""The driver of a gauge that only sends lines, on a line and a clock of the test's own."""

import itertools
from dataclasses import dataclass, field

import pytest
from yoke_server.bench.drivers import line_gauge
from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.line_gauge import RAIL, LineGauge

RATE = 10  # readings a second


@dataclass
class Line:
    """Sends a reading every tenth of a second of a quartz that runs ``ppm`` fast.

    ``lost`` readings never come; after the reading ``sleeps_at`` the reader sleeps for a second;
    time stands still while anything waits to be read.
    """

    ppm: float = 0.0
    form: str = "{:+.3f} mm"
    every: float = 1 / RATE
    lost: set[int] = field(default_factory=set)
    sleeps_at: int = -1
    now: float = 1000.0
    sent: int = 0

    def due(self, n: int) -> float:
        return 1000.0 + n * self.every / (1 + self.ppm * 1e-6)

    def monotonic(self) -> float:
        return self.now

    def monotonic_ns(self) -> int:
        return round(self.now * 1e9)

    def time(self) -> float:
        return self.now

    def write(self, data: bytes) -> None: ...
    def close(self) -> None: ...

    @property
    def in_waiting(self) -> int:
        following = next(n for n in itertools.count(self.sent + 1) if n not in self.lost)
        return int(self.due(following) <= self.now)

    def read_until(self, size: int) -> bytes:
        self.sent = next(n for n in itertools.count(self.sent + 1) if n not in self.lost)
        self.now = max(self.now, self.due(self.sent)) + (self.sent == self.sleeps_at)
        return (self.form.format(self.sent / 1000) + "\r\n").encode()


class Flood(Line):
    in_waiting = 1


@pytest.fixture
def on(monkeypatch):
    def linked(line: Line) -> LineGauge:
        monkeypatch.setattr(line_gauge.serial, "serial_for_url", lambda *a, **k: line)
        monkeypatch.setattr(line_gauge, "time", line)
        gauge = LineGauge("127.0.0.1", 1)
        gauge.connect()
        return gauge

    return linked


def taken(gauge, count):
    return list(itertools.islice(gauge.blocks(), count))


def missing(blocks):
    return sum(b.sequence - a.sequence - 1 for a, b in itertools.pairwise(blocks))


@pytest.mark.parametrize("ppm", [-300.0, -55.0, 300.0])
def test_a_quartz_that_is_off_loses_nothing_in_hours(on, ppm):
    line = Line(ppm)
    gauge = on(line)
    blocks = taken(gauge, 4 * 3600 * RATE)
    assert missing(blocks) == 0
    reading = gauge.read_clock(line.monotonic_ns)
    passed = (reading.device_ns - blocks[0].time_ns) * 1e-9
    assert passed == pytest.approx((len(blocks) - 1) / RATE)


def test_readings_that_did_not_come_show_as_missing_in_their_number(on):
    line = Line(lost=set(range(100, 140)))
    blocks = taken(on(line), 300)
    assert missing(blocks) == 40


def test_a_reader_that_slept_finds_all_that_waited(on):
    line = Line()
    gauge = on(line)
    before = taken(gauge, 50)
    line.now += 2.0
    after = taken(gauge, 50)
    assert missing([*before, *after]) == 0


@pytest.mark.parametrize("sleeps_at", range(9, 24))
def test_how_often_it_sends_is_learnt_by_a_reader_that_sleeps_too(on, sleeps_at):
    gauge = on(Line(sleeps_at=sleeps_at))
    assert gauge.status().rate_hz == RATE


@pytest.mark.parametrize(
    ("form", "first"),
    [
        ("{:+.3f} mm", None),
        ("OVER", RAIL),
        ("UNDER", -RAIL),
        ("123456789", 123456789),
        ("-0.000001", -1),
        ("123456.789012 um", 123456789),
    ],
)
def test_the_digits_shown_are_the_digits_kept(on, form, first):
    block = taken(on(Line(form=form)), 1)[0]
    shown = block.counts[0, 0] if first is not None else 0
    assert shown == (first or 0)
    value = block.counts[0, 0] / block.rail * float(block.full_scale[0])
    if form[0] in "{-1":
        text = form.format(block.sequence / 1000) if "{" in form else form
        assert value == pytest.approx(float(text.split()[0]), abs=1.1e-2, rel=1e-6)


def test_what_does_not_count_as_a_gauge_is_said(on):
    with pytest.raises(DriverError, match="sends no readings: “hello”"):
        on(Line(form="hello"))
    with pytest.raises(DriverError, match="sends 200 readings a second"):
        on(Line(every=1 / 200))
    with pytest.raises(DriverError, match="sends 10 readings a second by itself"):
        on(Line()).configure([], 20.0)
    with pytest.raises(DriverError, match="sends faster than can be read"):
        on(Flood())
