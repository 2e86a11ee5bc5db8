"""Runs the benchmarks, prints one table and writes it as JSON. Arguments choose some of them."""

import argparse
import json
import sys
from dataclasses import asdict

import django

from launch.paths import VAR


def main(chosen: list[str]) -> int:
    """Exit status 0 when every promise holds."""
    django.setup()
    from tests.benchmarks import (
        crowd,
        exchange,
        grid,
        keeping,
        large,
        lists,
        numbers,
        opening,
        pages,
        panes,
        recording,
        searching,
        signals,
        stopping,
        views,
        wiring,
    )
    from tests.benchmarks import (
        table as typing_table,
    )
    from tests.benchmarks.measure import table

    options = argparse.ArgumentParser(prog="./yoke benchmark")
    options.add_argument("benches", nargs="*", help="which; without any, all")
    options.add_argument("--schedules", type=int, default=2000, help="for simulation")
    given = options.parse_args(chosen)
    benches = {
        "recorder": recording.measure,
        "views": views.measure,
        "ends": views.measure_ends,
        "stop": stopping.measure,
        "crowd": crowd.measure,
        "numbers": numbers.measure,
        "signals": signals.measure,
        "keeping": keeping.measure,
        "exchange": exchange.measure,
        "opening": opening.measure,
        "lists": lists.measure,
        "large": large.measure,
        "wiring": wiring.measure,
        "table": typing_table.measure,
        "grid": grid.measure,
        "panes": panes.measure,
        "page": pages.measure,
        "start": pages.measure_start,
        "mutants": searching.measure_mutants,
        "simulation": lambda: searching.measure(given.schedules),
    }
    if unknown := set(given.benches) - set(benches):
        options.error(
            f"there is no {', '.join(sorted(unknown))}; choose among {', '.join(benches)}"
        )
    rows = []
    for name, measure in benches.items():
        if not given.benches or name in given.benches:
            print(f"Measuring {name}", flush=True)
            rows += measure()
    print("\n" + table(rows))
    file = VAR / "benchmark.json"
    file.write_text(json.dumps([asdict(r) | {"ratio": r.ratio} for r in rows], indent=1))
    print(f"\nWritten to {file}")
    return 0 if all(r.holds for r in rows) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
