from functools import partial

import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_rig.amplifier import Amplifier
from yoke_rig.device_commands import Hooks, amplifier_commands, frame_commands
from yoke_rig.frame import Crosshead
from yoke_rig.scpi import LEASE, Session


class Recorded:
    """Commands with the session of one host, on a clock that stands unless it is turned."""

    def __init__(self, make):
        self.now = 0.0
        self.commands = make(lambda: self.now)
        self.session = Session("a test")

    def answer(self, line, session=None):
        return self.commands.answer(session or self.session, line)


@pytest.fixture
def amp():
    return Amplifier()


@pytest.fixture
def commands(amp):
    hooks = Hooks(
        lambda a, b: None, amp.restart, lambda seed: None, lambda: 4242, lambda n, load: None
    )
    return Recorded(lambda clock: amplifier_commands(amp, hooks, clock))


def test_identity_and_self_test(commands):
    assert commands.answer("*IDN?") == "Yoke Rig,BA8 bridge amplifier,20417,3.3"
    assert commands.answer("*tst?") == "0"


@pytest.mark.parametrize("header", ["INPut3:RANGe", "INP3:RANG", "inp3:range"])
def test_long_and_short_forms_mean_the_same(amp, commands, header):
    assert commands.answer(f"{header} 40") is None
    assert amp.inputs[2].range_mv_v == 40
    assert commands.answer(f"{header}?") == "40"


@pytest.mark.parametrize(
    ("line", "number"),
    [
        ("NONSENSE 1", -113),
        ("INP9:RANG 2", -114),
        ("INP1:RANG 3", -222),
        ("INP1:EXC much", -104),
        ("INP1:BRID round", -224),
        ("INP1:RANG", -109),
        ("SAMP:RATE 1e9", -222),
        ("%%%", -100),
        ("INP1:EXC nan", -222),
        ("DATA:AGA 1", -109),
        ("DATA:AGA -1,2", -222),
        ("INP1:SHUN maybe", -224),
    ],
)
def test_wrong_commands_change_nothing_and_are_reported(amp, commands, line, number):
    before = repr(amp.inputs)
    assert commands.answer(line) is None
    assert commands.answer("SYST:ERR?").startswith(f"{number},")
    assert commands.answer("SYST:ERR?") == '0,"No error"'
    assert repr(amp.inputs) == before


def test_a_wrong_question_gets_an_answer_line(commands):
    assert commands.answer("INP9:RANG?") == "ERROR"


def test_load_frame_refuses_targets_beyond_its_limits():
    head = Crosshead()
    commands = Recorded(lambda clock: frame_commands(head, "LF25,1,1", clock))
    commands.answer("MOT:RAMP 0.2,500")
    assert "outside the travel limits" in commands.answer("SYST:ERR?")
    commands.answer("MOT:RAMP 0.2,10")
    assert commands.answer("MOT:STAT?") == "RAMP,0.0000"


def test_units_on_a_line_are_joined_and_may_leave_out_their_path(amp, commands):
    answer = commands.answer("INP2:RANG 40;EXC 2.5;:INP1:BRID HALF;*OPC?;INP2:RANG?;EXC?")
    assert answer == "1;40;2.5"
    assert (amp.inputs[0].bridge, amp.inputs[1].excitation) == ("HALF", 2.5)
    assert commands.answer("INP9:RANG?;*TST?") == "ERROR;0"


def test_one_host_controls_until_it_leaves_or_falls_silent(amp, commands):
    other = Session("another")
    commands.answer("INP1:RANG 2")
    commands.answer("INP1:RANG 40", other)
    refused = '-203,"Command protected; a test controls this device"'
    assert commands.answer("SYST:ERR?", other) == refused
    assert commands.answer("SYST:ERR?") == '0,"No error"'
    assert commands.answer("INP1:RANG?;:SYST:CONT?", other) == "2;a test"
    commands.now = LEASE + 1
    commands.answer("INP1:RANG 40", other)
    assert amp.inputs[0].range_mv_v == 40
    commands.commands.leave(other)
    assert commands.answer("SYST:CONT?") == "nobody"


def test_the_frame_holds_without_a_heartbeat_and_without_its_host():
    head = Crosshead()
    commands = Recorded(lambda clock: frame_commands(head, "LF25,1,1", clock))
    commands.answer("MOT:HEAR 2;RAMP 0.2,10")
    head.hold_if_silent(1.9)
    assert head.motion == "RAMP"
    head.hold_if_silent(2.1)
    assert (head.motion, head.cause) == ("HOLD", "no heartbeat")
    commands.answer("MOT:RAMP 0.2,10")
    commands.commands.leave(commands.session)
    assert (head.motion, head.cause) == ("HOLD", "its host left")


def test_anybody_may_stop_the_frame_and_only_its_host_may_move_it():
    head = Crosshead()
    commands = Recorded(lambda clock: frame_commands(head, "LF25,1,1", clock))
    commands.answer('MOT:RAMP 0.2,10,"pull 7"')
    other = Session("another")
    commands.answer("MOT:STOP", other)
    assert (head.motion, head.cause) == ("HOLD", "told to")
    assert commands.answer("SYST:ERR?", other) == '0,"No error"'
    commands.answer("MOT:RAMP 0.2,10", other)
    assert commands.answer("SYST:ERR?", other).startswith("-203,")
    assert head.motion == "HOLD"


def test_the_frame_names_the_motion_that_it_last_began():
    head = Crosshead()
    commands = Recorded(lambda clock: frame_commands(head, "LF25,1,1", clock))
    assert commands.answer("MOT:STAT?;ID?") == "HOLD,0.0000;none"
    commands.answer('MOT:RAMP 0.2,10,"pull 7"')
    assert commands.answer("MOT:STAT?;CAUS?;ID?") == "RAMP,0.0000;none;pull 7"
    commands.answer('MOT:RAMP 0.2,500,"too far"')
    assert commands.answer("MOT:ID?") == "pull 7"
    commands.answer("MOT:STOP;RET")
    assert commands.answer("MOT:STAT?;CAUS?;ID?") == "RETURN,0.0000;none;none"


def test_the_frame_takes_a_table_in_parts_and_switches_its_outputs():
    head = Crosshead(controls_force=True)
    commands = Recorded(lambda clock: frame_commands(head, "SA25,1,1", clock))
    commands.answer("MOT:TABL 0,100,200")
    commands.answer("MOT:TABL 100,0")
    assert commands.answer("MOT:TABL:COUN?") == "5"
    commands.answer('MOT:OUTP 2,1,"lamp"')
    assert commands.answer("MOT:OUTP?;STAT?;CAUS?;ID?") == "0,1;HOLD,0.0000;arrived;lamp"
    commands.answer('MOT:PLAY 10,3,0,"history"')
    assert commands.answer("MOT:STAT?;ID?") == "PLAY,0.0000;history"
    commands.answer("MOT:OUTP 1,1")
    assert commands.answer("SYST:ERR?").startswith("-222,")
    commands.answer("MOT:TABL:CLE;:MOT:PLAY 10,1,0")
    assert "no table to play" in commands.answer("SYST:ERR?")
    commands.answer("MOT:OUTP 3,1")
    assert "no output 3" in commands.answer("SYST:ERR?")


PIECES = [
    "MOT:TABL 1,2", "MOT:PLAY 1,2,0",
    "INP1:RANG 40", "INP1:", "*IDN?", "*CLS", "DATA:AGA ", "MOT:RAMP 1,2", ";", ":", ",", " ", "?",
    "-1", "1e999", "nan", "9" * 40, "'", "SYST:ERR?", "ACQ:STAT?", "\t", "\x00",
]  # fmt: skip


@given(st.lists(st.sampled_from(PIECES) | st.text(max_size=12), max_size=12))
def test_whatever_is_said_the_device_answers_or_notes_an_error(words):
    amp, head = Amplifier(), Crosshead()
    hooks = Hooks(
        lambda a, b: None, amp.restart, lambda seed: None, lambda: 4242, lambda n, load: None
    )
    amplifier = partial(amplifier_commands, amp, hooks)
    for make in (amplifier, partial(frame_commands, head, "LF25,1,1")):
        told = Recorded(make)
        answer = told.answer("".join(words))
        assert answer is None or isinstance(answer, str)
        assert len(told.session.errors) <= 16
        assert told.answer("*CLS;*OPC?") == "1"
        assert told.answer("SYST:ERR?") == '0,"No error"'
