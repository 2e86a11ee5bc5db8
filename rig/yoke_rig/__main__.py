"""`python -m yoke_rig`: simulated benches on loopback ports, which it prints as JSON."""

import argparse
import asyncio
import contextlib
import json
import os
import signal
import time
from pathlib import Path

from yoke_rig.announce import announced_as
from yoke_rig.serve import BENCHES, Rig, in_step_with_the_wall, in_steps, serve

HOST = "127.0.0.1"


def arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="yoke_rig", description=__doc__)
    parser.add_argument("--port", type=int, default=0, help="first control port; 0: any")
    parser.add_argument("--announce", type=Path, help="file to write the ports to as well")
    parser.add_argument(
        "--discoverable",
        action="store_true",
        help="announce the devices on this computer's network",
    )
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--speed", type=float, default=1.0, help="times faster than life")
    parser.add_argument(
        "--stepped",
        action="store_true",
        help="let time pass only as told on standard input: a block for each line",
    )
    parser.add_argument(
        "--benches",
        nargs="+",
        choices=BENCHES,
        default=list(BENCHES),
        metavar="BENCH",
        help=f"which of {', '.join(BENCHES)}; all, if none is named",
    )
    return parser.parse_args()


def announce(file: Path | None, ports: dict[str, int]) -> None:
    """Control ports by device, on standard output and in a file that is there whole or not."""
    text = json.dumps(ports)
    print(text, flush=True)
    if file:
        fresh = file.with_suffix(".new")
        fresh.write_text(text)
        os.replace(fresh, file)


async def main() -> None:
    args = arguments()
    task = asyncio.current_task()
    assert task is not None
    asyncio.get_running_loop().add_signal_handler(signal.SIGTERM, task.cancel)
    # Another number at each start: the host must never take new samples for old ones.
    acquisition = int(time.time() * 10) % 2**31
    rigs = [
        Rig(args.seed, args.speed, acquisition, bench, stepped=args.stepped)
        for bench in args.benches
    ]
    pass_time = in_steps if args.stepped else in_step_with_the_wall
    opened = asyncio.Event()

    def say(ports: dict[str, int]) -> None:
        announce(args.announce, ports)
        opened.set()

    async def announce_until_stopped() -> None:
        await opened.wait()
        async with announced_as([d for rig in rigs for d in rig.announced()], HOST):
            await asyncio.Event().wait()

    with contextlib.suppress(asyncio.CancelledError):
        async with asyncio.TaskGroup() as group:
            group.create_task(serve(rigs, HOST, args.port, say, pass_time))
            if args.discoverable:
                group.create_task(announce_until_stopped())


if __name__ == "__main__":
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(main())
