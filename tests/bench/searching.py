"""The search for courses of events that break a rule, as long as one likes: for the night."""

import logging
import time
from concurrent.futures import ProcessPoolExecutor

from tests.bench.measure import Row

FIRST_SEED = 1_000_000  # those of the tests lie below
A_TASK = 50
WORKERS = 2


def search(start: int) -> list[tuple[int, str, str]]:
    """(seed, why, schedule) of what fails among the next seeds."""
    import django

    django.setup()
    logging.disable(logging.CRITICAL)
    from tests.simulation.schedules import failures

    return [(s, why, repr(deeds)) for s, why, deeds in failures(range(start, start + A_TASK))]


def measure(schedules: int) -> list[Row]:
    begun, broken = time.perf_counter(), 0
    with ProcessPoolExecutor(WORKERS) as pool:
        starts = range(FIRST_SEED, FIRST_SEED + schedules, A_TASK)
        for found in pool.map(search, starts):
            for seed, why, deeds in found:
                broken += 1
                print(f"seed {seed}: {why}\n  {deeds}", flush=True)
    each = (time.perf_counter() - begun) / max(schedules, 1)
    return [
        Row(f"schedules that break a rule, of {schedules}", broken, None, "", "none", not broken),
        Row("  a schedule", each * 1e3, None, "ms", "", True),
    ]
