"""Nothing is compiled while a run is recorded: that would hold up what watches the actuator."""

import importlib
import pkgutil
import subprocess
import sys

import numpy as np
import yoke_core
from numba.core.dispatcher import Dispatcher
from yoke_core.warm import compile_all
from yoke_server.bench.drivers.base import SampleBlock

from tests.processes import ROOT
from tests.recorder.test_block_buffer import line_of

INPUTS = 8


def compiled():
    """How many forms there are of each kernel of the core."""
    modules = [m.name for m in pkgutil.walk_packages(yoke_core.__path__, "yoke_core.")]
    found = {}
    for module in map(importlib.import_module, modules):
        for name, one in vars(module).items():
            if isinstance(one, Dispatcher):
                found[f"{one.py_func.__module__}.{name}"] = len(one.signatures)
    return found


def record(columns, writeable, per_block):
    """Some seconds of a run, with a sample that is none and one that clipped."""
    line, writer = line_of(columns, [])
    for sequence in [*range(4), 5, 4, *range(6, 40)]:
        counts = np.full((per_block, INPUTS), sequence * 1000, np.int32)
        counts[0, 0] = 2**23 - 1 if sequence == 7 else 0
        scale = np.full(INPUTS, np.nan if sequence == 9 else 2e-3, np.float32)
        counts.flags.writeable = scale.flags.writeable = writeable
        block = SampleBlock(1, sequence, sequence * 10**8, per_block * 10.0, scale, counts, False)
        line.push_block(block)
    line.flush()
    writer.finish()


def main():
    compile_all()
    before = compiled()
    assert len(before) > 10
    for columns in ([*range(INPUTS)], [0, 3], [2]):
        for writeable in (True, False):
            for per_block in (1, 7, 1000):
                record(columns, writeable, per_block)
    fresh = {name for name, count in compiled().items() if count != before[name]}
    assert not fresh, fresh


def test_a_run_compiles_nothing():
    command = [
        sys.executable,
        "-c",
        "import django; django.setup(); import tests.recorder.test_warm as t; t.main()",
    ]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-2000:]
