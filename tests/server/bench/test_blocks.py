"""The wire format of blocks, written by the rig and read by the driver, which share no code."""

import io
import json
import socket
import zlib
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from itertools import islice

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_rig.blocks import SampleBlock as RigBlock
from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.blocks import HEADER, HIGHEST_RATE, MAGIC, blocks_of, read_block
from yoke_server.live import frames
from yoke_server.live.protocol import HEADER_BYTES, ROW_FIELDS, frame_header, read_header
from yoke_server.live.subscription import wanted_of


class Over(Exception):
    """No more bytes come."""


def out_of(data):
    """What fills a reader's buffers out of ``data``."""
    rest = io.BytesIO(data)

    def fill(view):
        if rest.readinto(view) < len(view):
            raise Over

    return fill


def rig_block(sequence=3):
    counts = np.arange(24, dtype=np.int32).reshape(3, 8) - 12
    return RigBlock(2, sequence, 77, 1000.0, np.full(8, 2e-3, np.float32), counts)


def test_blocks_pass_the_wire_in_any_pieces():
    data = rig_block(3).encode() + rig_block(4).encode(again=True)
    near, far = socket.socketpair()
    with near, far, ThreadPoolExecutor(1) as device:
        device.submit(lambda: [far.sendall(data[i : i + 7]) for i in range(0, len(data), 7)])
        found = list(islice(blocks_of(near), 2))
    assert [(b.sequence, b.again) for b in found] == [(3, False), (4, True)]
    np.testing.assert_array_equal(found[0].counts, rig_block().counts)
    assert found[0].full_scale == pytest.approx(np.full(8, 2e-3))


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda d: b"HTTP/1.1 200 OK\r\n" + d, "not its protocol"),
        (lambda d: d[:-1] + b"\xff", "damaged"),
        (lambda d: d[: HEADER.size - 8] + b"\xff" * 8 + d[HEADER.size :], "not its protocol"),
    ],
    ids=["another protocol", "a flipped byte", "absurd size"],
)
def test_nonsense_on_the_wire_is_told_not_stored(spoil, words):
    with pytest.raises(DriverError, match=words):
        read_block(out_of(spoil(rig_block().encode())))


@given(st.binary(max_size=2000))
def test_any_bytes_are_blocks_or_a_sentence(data):
    fill = out_of(data)
    with suppress(DriverError, Over):  # any other error is the test's failure
        while True:
            read_block(fill)


@pytest.mark.parametrize("how", ["closed", "silent"])
def test_a_link_that_ends_within_a_block_says_so(how):
    near, far = socket.socketpair()
    with near, far:
        near.settimeout(0.05)
        far.sendall(rig_block().encode()[:100])
        if how == "closed":
            far.close()
        with pytest.raises(DriverError, match="no samples arrive" if how == "silent" else "closed"):
            next(blocks_of(near))


whole = st.integers(0, 2**64 - 1)
figures = st.floats(allow_nan=True, allow_infinity=True)


@given(whole, whole, figures, st.floats(width=32, allow_nan=True), st.binary(max_size=3))
def test_a_block_with_a_right_checksum_has_figures_that_can_be_or_is_refused(
    sequence, time_ns, rate, full_scale, rest
):
    body = np.full(2, full_scale, "<f4").tobytes() + bytes(4 * 2 * 5)
    head = HEADER.pack(MAGIC, 0, 1, sequence, time_ns, rate, 2, 0, 5)
    checksum = zlib.crc32(head[8:] + body)
    data = MAGIC + checksum.to_bytes(4, "little") + head[8:] + body + rest
    try:
        found = read_block(out_of(data))
    except DriverError:
        return
    assert 0 < found.rate_hz <= HIGHEST_RATE
    assert max(found.sequence, found.time_ns) < 2**63
    assert (found.full_scale > 0).all()
    assert np.isfinite(found.full_scale).all()


keys = st.lists(st.text(max_size=25) | st.integers() | st.none(), max_size=6)
said = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=9),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=9), inner),
    max_leaves=5,
)


@given(said | st.builds(lambda k: {"subscribe": k}, keys) | st.just({"subscribe": None}))
def test_a_screen_subscribes_to_channels_or_is_not_understood(message):
    try:
        wanted = wanted_of(json.dumps(message))
    except ValueError:
        return
    assert set(message) == {"subscribe"}
    assert wanted == (None if message["subscribe"] is None else set(message["subscribe"]))


@given(st.text(max_size=60) | st.just("[" * 50_000) | st.none())
def test_any_text_is_a_subscription_or_is_not_understood(text):
    with suppress(ValueError):  # any other error is the test's failure
        assert wanted_of(text) is None or isinstance(wanted_of(text), frozenset)


@given(st.integers(0, 6), st.integers(0, 4), st.sets(st.integers(0, 8)))
def test_a_live_frame_keeps_the_rows_that_a_screen_wants(count, bins, wanted):
    rows = np.arange(count * (len(ROW_FIELDS) + 3 * bins), dtype="<f4").reshape(
        count, len(ROW_FIELDS) + 3 * bins
    )
    frame = frame_header(9, count, bins, 1.5, -1.0) + rows.tobytes()
    names = [f"c{i}" for i in range(count)]
    found = frames.of_channels(frame, {9: names}, {f"c{i}" for i in wanted})
    left = [i for i in range(count) if i in wanted]
    if not left:
        assert found is None
        return
    assert read_header(found)[:3] == (9, len(left), bins)
    assert found[HEADER_BYTES:] == rows[left].tobytes()
