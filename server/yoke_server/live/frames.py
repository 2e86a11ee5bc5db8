"""The rows of a live frame (record/recorder/display/live_frames.py) that a screen has asked for."""

import struct
from collections.abc import Collection, Mapping, Sequence

HEADER = struct.Struct("<IHHIIdd")
HEAD = 8  # numbers of a row before its bins
FLOAT = 4


def of_channels(
    frame: bytes, layouts: Mapping[int, Sequence[str]], wanted: Collection[str] | None
) -> bytes | None:
    """The frame with the rows of ``wanted`` channels alone; None if it has none of them.

    ``layouts`` lists the channels by layout; without ``wanted`` a frame goes as it is. A row
    says itself at which place of the layout its channel stands.
    """
    if wanted is None:
        return frame
    layout, count, bins, *rest = HEADER.unpack_from(frame)
    width = FLOAT * (HEAD + 3 * bins)
    rows = [i for i, key in enumerate(layouts.get(layout, ())) if key in wanted and i < count]
    if not rows:
        return None
    parts = [frame[HEADER.size + i * width : HEADER.size + (i + 1) * width] for i in rows]
    return HEADER.pack(layout, len(rows), bins, *rest) + b"".join(parts)
