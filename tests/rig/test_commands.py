import pytest
from yoke_rig.amplifier import Amplifier
from yoke_rig.device_commands import amplifier_commands, frame_commands
from yoke_rig.frame import Crosshead
from yoke_rig.world import World


@pytest.fixture
def amp():
    return Amplifier(World())


@pytest.fixture
def commands(amp):
    return amplifier_commands(amp, lambda first, last: None)


def test_identity_and_self_test(commands):
    assert commands.answer("*IDN?") == "Yoke Rig,BA8 bridge amplifier,20417,3.2"
    assert commands.answer("*tst?") == "0"


@pytest.mark.parametrize("header", ["INPut3:RANGe", "INP3:RANG", "inp3:range"])
def test_long_and_short_forms_mean_the_same(amp, commands, header):
    assert commands.answer(f"{header} 40") is None
    assert amp.inputs[2].range_mv_v == 40
    assert commands.answer(f"{header}?") == "40.0"


@pytest.mark.parametrize(
    ("line", "number"),
    [
        ("NONSENSE 1", -113),
        ("INP9:RANG 2", -114),
        ("INP1:RANG 3", -222),
        ("INP1:EXC much", -222),
        ("INP1:BRID round", -224),
        ("INP1:RANG", -222),
        ("SAMP:RATE 1e9", -222),
        ("%%%", -100),
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
    commands = frame_commands(head)
    commands.answer("MOT:RAMP 0.2,500")
    assert commands.answer("SYST:ERR?").startswith("-222")
    commands.answer("MOT:RAMP 0.2,10")
    assert commands.answer("MOT:STAT?") == "RAMP,0.0000"
