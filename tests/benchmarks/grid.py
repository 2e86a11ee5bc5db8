"""The channel grid with 64 channels whose readings come ten times a second: frames in a browser."""

import threading
from contextlib import contextmanager
from itertools import count
from typing import TYPE_CHECKING, Any

import numpy as np

from tests import processes, recorded
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row
from tests.benchmarks.table import COUNT
from tests.benchmarks.wiring import INPUTS, wire_all
from tests.browser.chromium import Watched, chromium

if TYPE_CHECKING:
    from collections.abc import Iterator

KEPT = 0.9  # of the frames that come while no reading changes
LOOKED = 6000  # ms
EVERY = 0.1  # s
STATE_EVERY = 10  # of these


def measure() -> list[Row]:
    setup = fresh_setup()
    wire_all(setup)
    with processes.web("yoke_bench") as address, chromium() as browser:
        page = Watched(browser).sign_in(address, "engineer")
        page.goto(f"{address}/setups/{setup.pk}/calibrate")
        page.get_by_role("row").nth(INPUTS).wait_for()
        still = _frames(page)
        with live(setup):
            page.wait_for_timeout(2000)
            readings = page.evaluate("document.querySelector('main').innerText")
            moving = _frames(page)
            assert page.evaluate("document.querySelector('main').innerText") != readings
    return [
        Row(
            f"frames of the grid of {INPUTS} channels at 10 Hz, against one that rests",
            moving,
            still,
            "a second",
            f"ratio at least {KEPT:g}",
            moving >= KEPT * still,
        )
    ]


def _frames(page: Any) -> float:
    page.evaluate(COUNT)
    page.wait_for_timeout(LOOKED)
    return float(page.evaluate(COUNT))


@contextmanager
def live(setup: Any) -> "Iterator[None]":
    """Frames of all devices, and the bench's state, as its recorder would send them."""
    over = threading.Event()
    sender = threading.Thread(target=_send, args=(setup, over), daemon=True)
    sender.start()
    yield
    over.set()
    sender.join()


def _send(setup: Any, over: threading.Event) -> None:
    from yoke_core.streaming.block import summarise_block
    from yoke_server.record.recorder.display.live_frames import BINS, LiveFrames
    from yoke_server.record.recorder.display.publisher import LivePublisher
    from yoke_server.setups.freezing import freeze

    frozen, dice, publisher = freeze(setup), np.random.default_rng(1), LivePublisher(setup.bench_id)
    publisher.start()
    shown = [LiveFrames(label, frozen.of_device(label)) for label in sorted(frozen.rates_hz)]
    for tick in count():
        if over.wait(EVERY):
            break
        seconds = tick * EVERY
        if tick % STATE_EVERY == 0:
            publisher.state(_state(shown))
        for frames in shown:
            counts = dice.integers(-(2**20), 2**20, (recorded.PER_BLOCK, 8), dtype=np.int32)
            one = recorded.block(0, counts)
            summary = summarise_block(one.counts, one.full_scale, one.rail, BINS, None)
            publisher.frame(frames.encode(summary, seconds))
    publisher.finish()


def _state(shown: list[Any]) -> Any:
    from yoke_server.live.protocol import BenchState, DeviceState, Phase

    device = DeviceState(why_not="", faults={}, age_s=0.1, drift_ppm=0.0, clock_steps=0)
    return BenchState(
        phase=Phase.IDLE, run=None, run_name="", elapsed_s=0.0, missing_blocks=0, backlog_s=0.0,
        queue_left_s=None, trouble="", free_bytes=None, linked=True,
        paused="", programme=None, tripped=[], kept=[], waiting="", dry=False,
        devices={f.layout.device: device for f in shown}, cycles=None, held_low=None,
        held_high=None, layouts=[f.layout for f in shown], motion="", position_m=None, home=False,
        stopped_because="", latched=None,
    )  # fmt: skip
