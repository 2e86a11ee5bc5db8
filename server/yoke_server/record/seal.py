"""The running seal over a stream's stored samples, and the checksum of each row."""

import hashlib
from collections.abc import Iterable

from blake3 import blake3

CHECKSUM_BYTES = 8  # as many as PostgreSQL's int8 holds


def seal(chain: bytes, first_sample: int, data: bytes | memoryview) -> tuple[int, bytes]:
    """The checksum of one row more, and the chain with it: SHA-256 of the chain so far, the
    place, the row's leaf.

    The data go in by their BLAKE3, which is as strong as SHA-256 and costs a tenth.
    """
    leaf = blake3(data).digest()
    place = first_sample.to_bytes(8, "little")
    return _number(leaf), hashlib.sha256(chain + place + leaf).digest()


def checksum(data: bytes | memoryview) -> int:
    """What `seal` gave for the same data."""
    return _number(blake3(data).digest(CHECKSUM_BYTES))


def _number(leaf: bytes) -> int:
    return int.from_bytes(leaf[:CHECKSUM_BYTES], "little", signed=True)


def seal_of(chains: Iterable[bytes]) -> str:
    """A run's seal: the SHA-256 of its streams' chains, in the streams' order."""
    return hashlib.sha256(b"".join(chains)).hexdigest()
