"""Runs the benchmarks, prints one table and writes it as JSON. Arguments choose some of them."""

import json
import sys
from dataclasses import asdict

import django

from launch.paths import VAR


def main(chosen: list[str]) -> int:
    """Exit status 0 when every promise holds."""
    django.setup()
    from tests.bench import pages, recording, views
    from tests.bench.measure import table

    benches = {
        "recorder": recording.measure,
        "views": views.measure,
        "page": pages.measure,
        "start": pages.measure_start,
    }
    rows = []
    for name, measure in benches.items():
        if not chosen or name in chosen:
            print(f"Measuring {name}", flush=True)
            rows += measure()
    print("\n" + table(rows))
    file = VAR / "bench.json"
    file.write_text(json.dumps([asdict(r) | {"ratio": r.ratio} for r in rows], indent=1))
    print(f"\nWritten to {file}")
    return 0 if all(r.holds for r in rows) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
