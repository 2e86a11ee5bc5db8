"""The demo's first runs: the same on every computer, whatever else it does."""

import os
import subprocess
import sys

import pytest
from django.core.management import CommandError
from yoke_server.bench.models import Device, Link
from yoke_server.demo import services as demo
from yoke_server.demo.management.commands import load_demo
from yoke_server.record.models import Run, RunState
from yoke_server.record.recorder.stream.block_order import Missing

from tests.processes import running, wait_for
from tests.recorded import block, record

PROGRAM = """
import django
django.setup()
from yoke_server.demo.bench import SteppedRig
rig = SteppedRig("shed")
rig.step()
print(rig.process.pid, flush=True)
input()
"""


@pytest.mark.django_db(transaction=True)
def test_the_first_runs_are_complete_and_the_same_again():
    demo.load({})
    load_demo.record_first_runs([demo.load_coupons(), *demo.load_fork()])
    runs = list(Run.objects.order_by("pk"))
    found = [(r.setup.name, r.state, r.ended_because) for r in runs]
    assert found == [
        ("Tension", "kept", "The force fell by 40 %"),
        ("Static", "kept", "The actuator has done its part"),
        ("Fatigue", "kept", "The actuator has done its part"),
    ]
    assert all(run.derivations.exists() for run in runs)
    of_rule = {(run.setup.name, s.rule): [] for run in runs for s in run.streams.all()}
    for run in runs:
        for s in run.streams.all():
            of_rule[run.setup.name, s.rule].append(s.samples)
    lengths = [of_rule[run.setup.name, "everything"] for run in runs]
    assert lengths == [[38_400, 19_150], [16_800, 1_670], [39_500, 3_940]]
    kept = [of_rule["Fatigue", rule] for rule in ("bursts", "turning_points", "changes")]
    assert kept == [[13_861, 1_386], [264, 264], [1, 1]]
    assert set(Device.objects.values_list("link", flat=True)) == {Link.UNKNOWN}


@pytest.mark.django_db
def test_a_run_that_lacks_samples_is_no_example(setup):
    load_demo._check(record(setup, [block(0), block(1)]))
    torn = record(setup, [block(0), Missing(1, 1), block(2)], number=2)
    with pytest.raises(CommandError, match="Samples of C1 run 2 of the demo are missing"):
        load_demo._check(torn)
    torn.state = RunState.INTERRUPTED
    with pytest.raises(CommandError, match="ended as interrupted"):
        load_demo._check(torn)


def test_no_rig_is_left_of_a_demo_that_was_killed_while_it_was_loaded():
    loading = subprocess.Popen(
        [sys.executable, "-c", PROGRAM],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONPATH": ":".join(sys.path)},
    )
    rig = int(loading.stdout.readline())
    assert running(rig)
    loading.kill()
    loading.wait()
    wait_for(lambda: not running(rig), "the rig's end", 10)
