"""Drivers against peers that behave and peers that do not."""

import socket
import threading

import pytest
from yoke_server.bench.drivers.base import DriverError, InputSettings
from yoke_server.bench.drivers.bridge_amplifier import BridgeAmplifier
from yoke_server.bench.drivers.load_frame import LoadFrame
from yoke_server.bench.drivers.scpi import ScpiLink

from tests import processes


class Peer:
    """A device of one's own making: answers each line by a function, or hangs up on None."""

    def __init__(self, answer):
        self._server = socket.create_server(("127.0.0.1", 0))
        self.port = self._server.getsockname()[1]
        self._answer = answer
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _serve(self):
        link, _ = self._server.accept()
        with link, link.makefile("rb") as lines:
            for line in lines:
                answer = self._answer(line.decode().strip())
                if answer is None:
                    return
                link.sendall(answer)

    def close(self):
        self._server.close()


@pytest.fixture
def peer():
    made = []

    def make(answer, timeout=0.3):
        made.append(Peer(answer))
        link = ScpiLink("127.0.0.1", made[-1].port, timeout)
        link.connect()
        return link

    yield make
    for one in made:
        one.close()


@pytest.mark.parametrize(
    ("answer", "ask", "words"),
    [
        (lambda line: b"", lambda x: x.ask("*IDN?"), "does not answer in time"),
        (lambda line: None, lambda x: x.ask("*IDN?"), "connection to the device broke"),
        (lambda line: b"warm\n", lambda x: x.ask_number("TEMP?"), "“warm”.*not a number"),
        (lambda line: b"a,b\n", lambda x: x.identify(), "does not identify itself"),
        (lambda line: b'-222,"Data out of range"\n', lambda x: x.check(), "Data out of range"),
        (lambda line: b"x" * 9000, lambda x: x.ask("*IDN?"), "broke"),
    ],
    ids=["silent", "hangs up", "words for a number", "another kind", "refuses", "endless line"],
)
def test_a_device_at_fault_is_told_in_words(peer, answer, ask, words):
    with pytest.raises(DriverError, match=words):
        ask(peer(answer))


def test_a_refused_question_brings_the_devices_own_reason(peer):
    link = peer(lambda line: b'-114,"Header suffix"\n' if "ERR" in line else b"ERROR\n")
    with pytest.raises(DriverError, match="Header suffix"):
        link.ask("INP9:RANG?")


def test_answers_in_pieces_are_put_together(peer):
    link = peer(lambda line: b"first\nsec" if line == "one?" else b"ond\n")
    assert link.ask("one?") == "first"
    assert link.ask("two?") == "second"


def test_nobody_there():
    port = processes.free_ports(1)
    with pytest.raises(DriverError, match=f"nothing answers at 127.0.0.1:{port}"):
        ScpiLink("127.0.0.1", port).connect()
    with pytest.raises(DriverError, match="not connected"):
        ScpiLink("127.0.0.1", port).ask("*IDN?")


@pytest.fixture(scope="module")
def rig_port():
    port = processes.free_ports()
    with processes.rig(port, 5.0):
        yield port


@pytest.fixture
def amplifier(rig_port):
    driver = BridgeAmplifier("127.0.0.1", rig_port)
    driver.connect()
    yield driver
    driver.close()


def take(driver, count):
    blocks = driver.blocks()
    return [next(blocks) for _ in range(count)]


def test_identity(amplifier, rig_port):
    again = BridgeAmplifier("127.0.0.1", rig_port)
    identity = again.connect()
    again.close()
    assert (identity.serial, identity.firmware, identity.self_test) == ("20417", "3.2", "passed")
    assert 0 < amplifier.temperature_c() < 60


def test_settings_reach_the_samples(amplifier):
    amplifier.configure([InputSettings(1, "full", 350, 5.0, 2.0)], 2000)
    assert amplifier.status().rate_hz == 2000
    block = take(amplifier, 12)[-1]
    assert block.rate_hz == 2000
    assert block.samples == pytest.approx(200, abs=1)
    assert block.full_scale[0] == pytest.approx(2e-3)


def test_old_blocks_come_again_as_they_were(amplifier):
    blocks = take(amplifier, 8)
    wanted = blocks[2]
    amplifier.send_again(wanted.sequence, wanted.sequence)
    for block in amplifier.blocks():
        if block.again:
            assert block.sequence == wanted.sequence
            assert (block.counts == wanted.counts).all()
            break


def test_the_shunt_steps_the_signal(amplifier):
    amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0)], 1000)
    before = take(amplifier, 6)[-1].counts[:, 1].mean()
    amplifier.set_shunt([2], True)
    after = take(amplifier, 8)[-1].counts[:, 1].mean()
    amplifier.set_shunt([2], False)
    step = (after - before) / amplifier.full_counts * 8e-3
    assert step == pytest.approx(350 / (4 * amplifier.shunt_ohm(2) + 700), rel=1e-3)


def test_a_setting_that_does_not_exist_is_refused(amplifier):
    with pytest.raises(DriverError, match="Data out of range"):
        amplifier.configure([InputSettings(1, "full", 350, 7.0, 2.0)], 1000)


def test_the_load_frame_moves_and_stops(rig_port):
    frame = LoadFrame("127.0.0.1", rig_port + 2)
    assert frame.connect().model == "LF25 load frame"
    frame.ramp(1e-3, 0.5e-3)
    processes.wait_for(lambda: frame.state().position_m > 1e-4, "movement")
    frame.stop()
    assert frame.state().motion == "HOLD"
    frame.go_home()
    processes.wait_for(lambda: frame.state().position_m == 0, "home")
    with pytest.raises(DriverError, match="refuses a setting"):
        frame.ramp(1e-3, 1.0)
    frame.close()
