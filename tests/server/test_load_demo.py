"""The demo's first runs: on a computer that is slower than they are recorded, and broken off."""

import os
import subprocess
import sys
from itertools import chain, repeat
from types import SimpleNamespace

import pytest
from yoke_server.common.problems import Problem
from yoke_server.config.management.commands import load_demo

from tests.processes import running, wait_for

LATE = Problem(409, "Measuring took too long: samples stay away.")


@pytest.mark.parametrize("late", [0, 2, 3])
def test_what_was_not_measured_in_time_is_measured_again(monkeypatch, late):
    asked = []
    answers = chain(repeat(LATE, late), repeat({"measured": 1}))

    def answer(order):
        asked.append(order)
        found = next(answers)
        if isinstance(found, Problem):
            raise found
        return found

    monkeypatch.setattr(load_demo, "_answer", answer)
    monkeypatch.setattr(load_demo, "order_of_channels", lambda *order: order)
    deed = ("engineer", SimpleNamespace(pk=3), [1, 2], "measure")
    if late > load_demo.MORE_TRIES:
        with pytest.raises(Problem, match="took too long"):
            load_demo._measured(*deed)
    else:
        assert load_demo._measured(*deed) == {"measured": 1}
    assert asked == [("engineer", 3, [1, 2], "measure")] * min(late + 1, load_demo.MORE_TRIES + 1)


LOADING = """
import django, time
django.setup()
from yoke_server.config.management.commands.load_demo import start_rig
rig = start_rig()
rig.stdout.readline()
print(rig.pid, flush=True)
time.sleep(60)
"""


def test_no_rig_is_left_of_a_demo_that_was_killed_while_it_was_loaded():
    loading = subprocess.Popen(
        [sys.executable, "-c", LOADING],
        stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": ":".join(sys.path)},
    )  # fmt: skip
    rig = int(loading.stdout.readline())
    assert running(rig)
    loading.kill()
    loading.wait()
    wait_for(lambda: not running(rig), "the rig's end", 10)
