"""`python -m yoke_rig`: one simulated bench on three loopback ports."""

import argparse
import asyncio
import contextlib
import signal
import time

from yoke_rig.amplifier import Amplifier
from yoke_rig.serve import Rig, serve
from yoke_rig.world import World


def arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="yoke_rig", description=__doc__)
    parser.add_argument("--port", type=int, required=True, help="control; data and frame follow")
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--speed", type=float, default=1.0, help="times faster than life")
    return parser.parse_args()


async def main() -> None:
    args = arguments()
    task = asyncio.current_task()
    assert task is not None
    asyncio.get_running_loop().add_signal_handler(signal.SIGTERM, task.cancel)
    # Another number at each start: the host must never take new samples for old ones.
    acquisition = int(time.time() * 10) % 2**31
    rig = Rig(Amplifier(World(seed=args.seed), acquisition=acquisition), args.speed)
    with contextlib.suppress(asyncio.CancelledError):
        await serve(rig, "127.0.0.1", args.port, args.port + 1, args.port + 2)


if __name__ == "__main__":
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(main())
