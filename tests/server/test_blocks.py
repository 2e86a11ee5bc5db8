"""The wire format of blocks, written by the rig and read by the driver, which share no code."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_rig.blocks import SampleBlock as RigBlock
from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.blocks import HEADER, BlockReader


def rig_block(sequence=3):
    counts = np.arange(24, dtype=np.int32).reshape(3, 8) - 12
    return RigBlock(2, sequence, 77, 1000.0, np.full(8, 2e-3, np.float32), counts)


def test_blocks_pass_the_wire_in_any_pieces():
    data = rig_block(3).encode() + rig_block(4).encode(again=True)
    reader, found = BlockReader(), []
    for i in range(0, len(data), 7):
        reader.feed(data[i : i + 7])
        while one := reader.next_block():
            found.append(one)
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
    reader = BlockReader()
    reader.feed(spoil(rig_block().encode()))
    with pytest.raises(DriverError, match=words):
        reader.next_block()


@given(st.lists(st.binary(max_size=300), max_size=8))
def test_any_bytes_are_blocks_or_a_sentence(pieces):
    reader = BlockReader()
    try:
        for piece in pieces:
            reader.feed(piece)
            while reader.next_block():
                pass
    except DriverError:
        pass  # any other error is the test's failure
