"""The memories of the stand-ins' plugs, read by the core's own reader."""

from datetime import date

import pytest
from yoke_core.datasheet.sheet import read_sheet, write_sheet
from yoke_rig.amplifier import Amplifier
from yoke_rig.plugs import FORK_PLUGS, PLUGS, SECOND_PLUGS


def test_what_the_rig_packs_by_its_own_means_reads_as_the_sensor():
    found = {s.text: s for p in (*PLUGS, *SECOND_PLUGS, *FORK_PLUGS) if (s := read_sheet(p.sheet))}
    assert set(found) == {"LC-2207", "EX-0351", "LC-1180", "LC-1192"}
    cell = found["LC-2207"]
    assert (cell.serial, cell.template) == (2207, 33)
    values = cell.values
    assert (values["measurand"], values["bridge"], values["response_s"]) == ("N", "full", None)
    assert values["highest"] == 25e3
    assert values["output_at_highest"] == pytest.approx(2e-3)
    assert values["resistance_ohm"] == pytest.approx(350.0)
    assert values["excitation_v"] == pytest.approx(5.0)
    assert values["calibrated_on"] == date(2026, 3, 14)
    assert values["calibration_days"] == 365
    # And what the core writes of it are the same bytes.
    assert write_sheet(cell) == PLUGS[0].sheet


def test_a_memory_goes_with_its_plug_and_takes_only_what_fits():
    amp = Amplifier()
    amp.move(1, 5)
    assert read_sheet(amp.sheets[4]).text == "LC-2207"
    assert amp.plugs[4].source == "force"
    assert not amp.write_sheet(1, bytes(128))  # nothing is plugged in there now
    assert not amp.write_sheet(3, bytes(64))
    assert amp.write_sheet(3, bytes(128))
    amp.plug_as_at_first()
    assert amp.sheets[0] == PLUGS[0].sheet
