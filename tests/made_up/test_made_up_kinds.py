"""A made-up kind of each sort walks from the list to the screen's data, the run and the PDF."""

import os
import re
import subprocess
import sys
from pathlib import Path

from tests.made_up.copy_of_server import FILES, LINES, ROOT, copy_with_made_up_kinds

WALK = Path(__file__).with_name("walk.py")


def test_made_up_kinds_need_a_folder_and_a_line_each(tmp_path):
    server = copy_with_made_up_kinds(tmp_path)
    path = os.pathsep.join([str(server), *(str(ROOT / p) for p in ("core", "rig")), str(ROOT)])
    again = {
        name: re.sub(r"/yoke_tests$", "/yoke_tests_made_up", value)
        for name, value in os.environ.items()
    }
    told = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", str(WALK), "-o", f"pythonpath={server} core rig ."],
        env=again | {"PYTHONPATH": path},
        cwd=ROOT,
        capture_output=True,
        text=True,
        timeout=500,
    )
    assert told.returncode == 0, told.stdout[-6000:] + told.stderr[-2000:]
    assert told.stdout.split()[0] == "." * 12


def test_a_made_up_kind_changes_nothing_but_its_own_list():
    """Each sort has one list; the files beside it are the kinds' own."""
    places = {str(file.relative_to(FILES).parent) for file in FILES.rglob("*.py")}
    lists = {str(Path(name).parent) for name in LINES}
    assert {p if p in lists else str(Path(p).parent) for p in places} == lists
