"""Drivers against peers that behave and peers that do not."""

import socket
import threading
import time

import pytest
from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.causes import Sensor
from yoke_core.wiring.shunt import ShuntResistor, expected_shunt_ratio
from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import (
    ControlRefused,
    DriverError,
    Housekeeping,
    Identity,
    InputSettings,
    LinkBroken,
    Refusal,
)
from yoke_server.bench.drivers.bridge_amplifier import BridgeAmplifier
from yoke_server.bench.drivers.load_frame import LoadFrame, ServoActuator
from yoke_server.bench.drivers.measuring_module import MeasuringModule
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
        (lambda line: b"a,b\n", lambda x: x.identify("BA8"), "not identify itself"),
        (lambda line: b"m,MM8 module,1,1\n", lambda x: x.identify("BA8"), "“MM8 module”, a device"),
        (lambda line: b'-222,"Data out of range"\n', lambda x: x.check(), "Data out of range"),
        (lambda line: b"x" * 9000, lambda x: x.ask("*IDN?"), "broke"),
    ],
    ids=["silent", "hangs up", "words for a number", "no device", "other", "refuses", "endless"],
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


def test_a_link_that_is_closed_while_an_answer_is_awaited_is_a_link_that_is_lost(peer):
    link = peer(lambda line: b"")
    threading.Timer(0.1, link.close).start()
    with pytest.raises(DriverError):
        link.ask("*IDN?")


def test_nobody_there():
    port = processes.free_port()
    with pytest.raises(DriverError, match=f"nothing answers at 127.0.0.1:{port}"):
        ScpiLink("127.0.0.1", port).connect()
    with pytest.raises(DriverError, match="not connected"):
        ScpiLink("127.0.0.1", port).ask("*IDN?")


@pytest.fixture(scope="module")
def rig():
    with processes.rig(5.0) as found:
        yield found


@pytest.fixture
def amplifier(rig):
    rig.tell("A1", "TEST:RESet 7")
    driver = BridgeAmplifier("127.0.0.1", rig.ports["A1"])
    driver.connect()
    driver.take_control("a test")
    yield driver
    driver.close()


def take(driver, count):
    blocks = driver.blocks()
    return [next(blocks) for _ in range(count)]


def test_identity(amplifier, rig):
    again = BridgeAmplifier("127.0.0.1", rig.ports["A1"])
    identity = again.connect()
    again.close()
    assert (identity.serial, identity.firmware, identity.self_test) == ("20417", "3.3", "passed")


def test_a_device_says_how_warm_it_is_and_what_is_left_of_its_battery(amplifier, rig):
    assert amplifier.housekeeping() == Housekeeping(34.2, None)
    rig.tell("A1", "TEST:BATTery 15")
    assert amplifier.housekeeping().battery == 0.15


def test_settings_reach_the_samples(amplifier):
    status = amplifier.configure([InputSettings(1, "full", 350, 5.0, 2.0)], 2000)
    assert status.rate_hz == 2000
    ours = (b for b in amplifier.blocks() if b.acquisition == status.acquisition)
    assert next(b for b in ours if b.sequence >= status.next).rate_hz == 2000
    block = take(amplifier, 3)[-1]
    assert block.samples == pytest.approx(200, abs=1)
    assert block.full_scale[0] == pytest.approx(2e-3)


def test_a_setting_that_does_not_stick_is_noticed(amplifier, rig, monkeypatch):
    """A device that nods and does something else; here one that is reset in between."""
    confirm = amplifier._confirm

    def forgetful(wanted):
        rig.tell("A1", "TEST:RESet 7")
        confirm(wanted)

    monkeypatch.setattr(amplifier, "_confirm", forgetful)
    with pytest.raises(DriverError, match="input 3 has bridge FULL after being told QUARTER"):
        amplifier.configure([InputSettings(3, "quarter", 350, 5.0, 40.0)], 1000)


def test_old_blocks_come_again_as_they_were(amplifier):
    blocks = take(amplifier, 8)
    wanted = blocks[2]
    amplifier.send_again(wanted.sequence, wanted.sequence)
    for block in amplifier.blocks():
        if block.again:
            assert block.sequence == wanted.sequence
            assert (block.counts == wanted.counts).all()
            break


def settled(amplifier):
    """A block that was measured some blocks after now, by the device's own count."""
    now = amplifier.status().next
    return next(b for b in amplifier.blocks() if b.sequence > now + 5)


CELL = Sensor(Circuit.FULL_BENDING, 6, 350.0, 0.77, 350.0, 5.0)  # on 6 m of cable


def test_the_shunt_steps_the_signal(amplifier):
    amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0)], 1000)
    before = settled(amplifier).counts[:, 1].mean()
    amplifier.set_shunt([2], True)
    block = settled(amplifier)
    amplifier.set_shunt([2], False)
    step = (block.counts[:, 1].mean() - before) / block.rail * 8e-3
    own = ShuntResistor(amplifier.shunt_ohm(2))
    assert step == pytest.approx(expected_shunt_ratio(CELL, own), rel=1e-3)


def test_a_balance_is_taken_off_before_it_is_converted(amplifier):
    amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0)], 1000)
    before = settled(amplifier)
    amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0, balance=3.21e-3)], 1000)
    after = settled(amplifier)
    amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0)], 1000)
    went = (before.counts[:, 1].mean() - after.counts[:, 1].mean()) / before.rail * 8e-3
    assert went == pytest.approx(3.21e-3, rel=1e-4)
    with pytest.raises(Exception, match="out of range"):
        amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0, balance=0.1)], 1000)


def test_a_resistor_at_the_sensor_steps_the_signal(amplifier):
    amplifier.configure([InputSettings(2, "full", 350, 5.0, 8.0)], 1000)
    before = settled(amplifier).counts[:, 1].mean()
    amplifier.pretend(2, "shunted 3 50000")
    block = settled(amplifier)
    amplifier.pretend(2, "none")
    step = (block.counts[:, 1].mean() - before) / block.rail * 8e-3
    held = ShuntResistor(50e3, arm=3, at_sensor=True)
    assert step == pytest.approx(expected_shunt_ratio(CELL, held), rel=1e-3)


def test_a_setting_that_does_not_exist_is_refused(amplifier):
    with pytest.raises(Refusal, match=r"one of 1, 2\.5, 5"):
        amplifier.configure([InputSettings(1, "full", 350, 7.0, 2.0)], 1000)


def test_a_device_obeys_one_host_and_others_may_listen(amplifier, rig):
    other = BridgeAmplifier("127.0.0.1", rig.ports["A1"])
    other.connect()
    with pytest.raises(ControlRefused, match="a test controls it; a device obeys one host"):
        other.take_control("another")
    with pytest.raises(DriverError, match="a test controls this device"):
        other.configure([InputSettings(1, "full", 350, 5.0, 2.0)], 1000)
    assert other.controller() == "a test"
    assert take(other, 2)[1].samples > 0
    amplifier.close()
    processes.wait_for(lambda: other.controller() == "nobody", "the device to be free")
    other.take_control("another")
    assert other.controller() == "another"
    other.close()


def test_the_devices_clock_is_read_with_its_doubt(amplifier):
    readings = []
    for _ in range(5):
        readings.append(amplifier.read_clock(lambda: round(time.monotonic() * 5e9)))
        time.sleep(0.1)
    assert all(0 < r.doubt_ns < 50_000_000 for r in readings)
    offsets = [r.host_ns - r.device_ns for r in readings]
    assert max(offsets) - min(offsets) < 2 * max(r.doubt_ns for r in readings) + 1_000_000


def test_the_measuring_module_gives_volts_and_ohms(rig):
    module = MeasuringModule("127.0.0.1", rig.ports["M1"])
    try:
        assert module.connect().model.startswith("MM8")
        module.take_control("a test")
        assert module.configure([], 200.0).rate_hz == 200
        block = next(b for b in module.blocks() if b.rate_hz == 200)
        assert block.full_scale.tolist() == [10.0] * 4 + [400.0] * 4
        middle = block.counts[:, 0].mean() / block.rail * 10
        assert middle == pytest.approx(12e-3 * 50, rel=1e-3)
        with pytest.raises(DriverError, match="rate outside 10 to 1000 Hz"):
            module.configure([], 5000.0)
        with pytest.raises(Refusal, match="no shunt"):
            module.set_shunt([1], on=True)
    finally:
        module.close()


@pytest.fixture
def frame(rig):
    made = LoadFrame("127.0.0.1", rig.ports["Load frame"])
    made.connect()
    made.take_control("a test")
    yield made
    made.close()


def test_the_load_frame_moves_and_stops(frame):
    frame.ramp("up", 1e-3, 0.5e-3)
    processes.wait_for(lambda: frame.state().position_m > 1e-4, "movement")
    frame.stop()
    assert frame.state().motion == "HOLD"
    frame.go_home("home")
    processes.wait_for(lambda: frame.state().position_m == 0, "home")
    with pytest.raises(Refusal, match="outside the travel limits"):
        frame.ramp("far", 1e-3, 1.0)


def test_the_load_frame_names_its_motion(frame):
    frame.go_home("way home")
    assert frame.state().motion_id == "way home"
    frame.stop()


@pytest.fixture
def servo():
    with processes.rig(1.0, bench="fork") as fork:
        made = ServoActuator("127.0.0.1", fork.ports["Servo"])
        made.connect()
        made.take_control("a test")
        yield made
        made.stop()
        made.close()


def test_an_actuator_plays_a_table_of_any_length_and_switches_its_outputs(servo):
    table = [-1234.5678 + 0.25 * i for i in range(5000)]
    servo.switch("lamp", 2, True)
    assert (servo.state().motion_id, servo.state().cause) == ("lamp", "arrived")
    servo.play("history", table, 500.0, 1, -1.0)
    assert (servo.state().motion, servo.state().motion_id) == ("PLAY", "history")
    assert servo._link.ask("MOTion:TABLe:COUNt?") == "5000"
    servo.stop()
    with pytest.raises(Refusal, match="a jump steeper"):
        servo.play("jump", [0.0, 5000.0], 100.0, 1, -1.0)
    servo.switch("lamp", 2, False)


def test_a_late_answer_is_never_taken_for_that_to_the_next_question():
    delays = iter([0.6, 0.0])

    def late_once(question):
        time.sleep(next(delays))
        return f"answer to {question}\n".encode()

    link = ScpiLink("127.0.0.1", Peer(late_once).port, timeout=0.3)
    link.connect()
    with pytest.raises(LinkBroken, match="in time"):
        link.ask("FIRST?")
    time.sleep(0.5)
    with pytest.raises(LinkBroken, match="not connected"):
        link.ask("SECOND?")


@pytest.mark.parametrize("host", ["no such place.invalid", "\udcff", "x" * 300, ""])
def test_an_address_that_is_none_is_told_as_such(host):
    with pytest.raises(DriverError, match="address"):
        ScpiLink(host or "a..b", 5025, timeout=0.3).connect()


def test_what_a_device_says_of_itself_is_kept_without_what_no_database_takes():
    assert Identity("BA8\x00 amplifier", "1\ud800", "\x1b[3m2", "passed\n") == Identity(
        "BA8 amplifier", "1", "[3m2", "passed"
    )


@pytest.mark.parametrize("answer", ["HOLD,nan;told to;none", "HOLD,inf;a;b", "HOLD", "a;b;c;d"])
def test_a_state_that_is_none_breaks_the_link(frame, monkeypatch, answer):
    monkeypatch.setattr(frame._link, "ask", lambda question: answer)
    with pytest.raises(LinkBroken, match="makes no sense"):
        frame.state()


def test_what_others_left_in_the_error_queue_does_not_spoil_a_stop(frame):
    frame._link._send("NONSENSE\n")
    frame.stop()


def test_without_a_word_from_its_host_the_frame_holds(frame, rig):
    frame.ramp("slow", 1e-4, 20e-3)
    time.sleep(1.4)
    assert rig.ask("Load frame", "MOT:STAT?;CAUS?").endswith("no heartbeat")
    assert frame.state().motion == "HOLD"


def test_when_its_host_goes_the_frame_holds(frame, rig):
    frame.ramp("slow", 1e-4, 20e-3)
    frame.close()
    stands = "HOLD"
    processes.wait_for(lambda: rig.ask("Load frame", "MOT:STAT?").startswith(stands), "rest", 1)
    assert rig.ask("Load frame", "MOT:CAUS?") == "its host left"


def test_a_client_that_none_of_us_wrote_speaks_to_the_stand_ins(rig):
    pyvisa = pytest.importorskip("pyvisa")
    manager = pyvisa.ResourceManager("@py")
    link = manager.open_resource(
        f"TCPIP0::127.0.0.1::{rig.ports['A1']}::SOCKET",
        read_termination="\n",
        write_termination="\n",
        timeout=2000,
    )
    try:
        assert link.query("*IDN?").split(",")[1] == "BA8 bridge amplifier"
        link.write('SYST:HOST "a client";:INP2:RANG 2;EXC 2.5')
        assert link.query("INP2:RANG?;EXC?;:SYST:CONT?") == "2;2.5;a client"
        link.write("INP2:EXC warm")
        assert link.query("SYST:ERR?") == '-104,"Data type error; a number is expected"'
        assert float(link.query("INP:COUN?")) == 8
    finally:
        link.close()
        manager.close()


OWN = [
    "127.0.0.1",
    "localhost",
    "127.9.9.9",
    "::1",
    "0.0.0.0",  # noqa: S104
    "169.254.7.7",
    "fe80::1",
    "224.0.0.1",
    "::ffff:127.0.0.1",
    "2130706433",
    "0x7f.1",
]


@pytest.mark.parametrize("host", OWN)
@pytest.mark.parametrize("driver", ["bridge amplifier", "load frame"])
def test_no_device_is_this_computer_itself(settings, host, driver):
    settings.LOCAL_DEVICES = False
    make = registry.acquiring if driver in registry.ACQUIRING else registry.moving
    with pytest.raises(DriverError, match="no address of a device"):
        make(driver, host, 5432)
    settings.LOCAL_DEVICES = True
    assert make(driver, host, 5432)


@pytest.mark.parametrize("host", ["192.0.2.7", "2001:db8::7", "no-such-name.invalid"])
def test_other_addresses_are_the_drivers_to_try(settings, host):
    settings.LOCAL_DEVICES = False
    assert registry.acquiring("bridge amplifier", host, 5025)


def test_a_serial_line_is_of_this_computer_and_allowed(settings):
    settings.LOCAL_DEVICES = False
    assert registry.acquiring("line gauge", "/dev/ttyS0", 0)
