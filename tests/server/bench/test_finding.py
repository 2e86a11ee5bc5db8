"""How long devices are listened for that announce themselves, on a clock of the test's own."""

import pytest
from yoke_server.bench.drivers import finding


class Clock:
    """Whenever somebody sleeps, those speak whose time has come."""

    def __init__(self, heard, times):
        self.now = 1000.0
        self._heard = heard
        self._times = [1000.0 + t for t in times]

    def monotonic(self):
        return self.now

    def sleep(self, seconds):
        self.now += seconds
        while self._times and self._times[0] <= self.now:
            self._heard.add_service(None, "_text-gauge._tcp.local.", f"at {self._times.pop(0)}")


@pytest.mark.parametrize(
    ("speaking", "found", "seconds"),
    [
        ([], 0, 2.0),
        ([0.1, 0.2], 2, 2.0),
        ([0.1, 1.5, 2.4, 3.3, 4.5], 4, 4.0),  # the last one is too late
        ([0.1, 1.5, 2.8], 2, 2.5),
        ([n / 10 + 0.08 for n in range(200)], 40, 4.0),  # and nobody keeps us for ever
    ],
)
def test_as_long_as_new_ones_speak_the_late_are_waited_for(monkeypatch, speaking, found, seconds):
    heard = finding.Heard()
    clock = Clock(heard, speaking)
    monkeypatch.setattr(finding, "time", clock)
    heard.listen()
    assert clock.now - 1000.0 == pytest.approx(seconds, abs=0.11)
    assert len(heard.names()) == found
