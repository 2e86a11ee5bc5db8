"""The search for courses of events that break a rule, as long as one likes: for the night.

It also prints what the search has looked at, and which faults put in on purpose it finds.
"""

import logging
import time
from concurrent.futures import ProcessPoolExecutor
from typing import TYPE_CHECKING

from tests.benchmarks.measure import Row

if TYPE_CHECKING:
    from tests.simulation.coverage import Coverage

FIRST_SEED = 1_000_000  # those of the tests lie below
A_TASK = 50
WORKERS = 2
MUTANT_TRIES = 300


def search(start: int) -> tuple[list[tuple[int, str, str]], "Coverage"]:
    """(seed, why, schedule) of what fails among the next seeds, and what they looked at."""
    import django

    django.setup()
    logging.disable(logging.CRITICAL)
    from tests.simulation.coverage import Coverage
    from tests.simulation.schedules import failures

    coverage = Coverage()
    seeds = range(start, start + A_TASK)
    return [(s, why, repr(actions)) for s, why, actions in failures(seeds, coverage)], coverage


def measure(schedules: int) -> list[Row]:
    from tests.simulation.coverage import Coverage

    begun, broken, coverage = time.perf_counter(), 0, Coverage()
    with ProcessPoolExecutor(WORKERS) as pool:
        starts = range(FIRST_SEED, FIRST_SEED + schedules, A_TASK)
        for found, looked_at in pool.map(search, starts):
            coverage.merge(looked_at)
            for seed, why, actions in found:
                broken += 1
                print(f"seed {seed}: {why}\n  {actions}", flush=True)
    each = (time.perf_counter() - begun) / max(schedules, 1)
    print(coverage.table())
    return [
        Row(f"schedules that break a rule, of {schedules}", broken, None, "", "none", not broken),
        Row("  a schedule", each * 1e3, None, "ms", "", True),
        Row("  of their time, a run is recorded in", coverage.recording * 100, None, "%", "", True),
    ]


def measure_mutants() -> list[Row]:
    """Each fault that is put in on purpose, and the course that finds it; they are written down."""
    from tests.simulation.mutants import MUTANTS, hunted, keep_found, seeds_for

    logging.disable(logging.CRITICAL)
    found = {}
    for mutant in MUTANTS:
        course = hunted(mutant, seeds_for(mutant, MUTANT_TRIES))
        print(f"{mutant.name}: " + (f"seed {course[0]}, {course[1]}" if course else "not found"))
        if course:
            found[mutant.name] = course[0]
    keep_found(found)
    share = len(found) / len(MUTANTS)
    return [
        Row(
            f"faults put in on purpose that are found, of {len(MUTANTS)}",
            share * 100,
            None,
            "%",
            "at least 90 %",
            share >= 0.9,
        )
    ]
