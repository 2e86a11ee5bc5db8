"""The rows of a live frame that a screen has asked for."""

from collections.abc import Collection, Mapping, Sequence

from yoke_server.live.protocol import HEADER_BYTES, read_header, row_bytes


def of_channels(
    frame: bytes, layouts: Mapping[int, Sequence[str]], wanted: Collection[str] | None
) -> bytes | None:
    """The frame with the rows of ``wanted`` channels alone; None if it has none of them.

    ``layouts`` lists the channels by layout; without ``wanted`` a frame goes as it is. A row
    says itself at which place of the layout its channel stands.
    """
    if wanted is None:
        return frame
    header = read_header(frame)
    width, keys = row_bytes(header.bins), layouts.get(header.layout, ())
    rows = [i for i, key in enumerate(keys) if key in wanted and i < header.channels]
    if not rows:
        return None
    parts = [frame[HEADER_BYTES + i * width : HEADER_BYTES + (i + 1) * width] for i in rows]
    return header._replace(channels=len(rows)).pack() + b"".join(parts)
