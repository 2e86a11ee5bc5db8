"""Samples of a run as kinds of results take them: in SI, by the channel's own chain."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import chain_of
from yoke_server.record.models import Run, Stream
from yoke_server.record.queries import StreamTimes, document_of, times_of
from yoke_server.record.samples import blocks, read
from yoke_server.setups.document import FrozenChannel, FrozenSetup

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]


def channel_of(setup: FrozenSetup, key: str) -> FrozenChannel:
    """The channel with a key; raises a 409 problem if the setup of that time had none."""
    found = next((c for c in setup.channels if c.key == key), None)
    if found is None:
        raise Problem(
            409,
            "This run has not all channels that the recipe names.",
            code=ProblemType.NO_RESULT,
            hint="Choose the recipe's channels anew, or another run.",
        )
    return found


def stream_with(run: Run, keys: list[str]) -> tuple[Stream, list[int]]:
    """The stream that holds some channels, and their places in it.

    Raises a 409 problem if no one stream holds them all, or it is empty.
    """
    for stream in run.streams.prefetch_related("channels"):
        places = {c.channel_key: c.position for c in stream.channels.all()}
        if set(keys) <= set(places):
            if not stream.samples:
                raise Problem(
                    409,
                    f"{run.name} holds no samples.",
                    code=ProblemType.NO_RESULT,
                    hint="Choose another run.",
                )
            return stream, [places[k] for k in keys]
    raise Problem(
        409,
        "These channels are not measured at the same instants.",
        code=ProblemType.NO_RESULT,
        hint="Wire them to one device, so that one clock takes them.",
    )


def whole(run: Run, channel: FrozenChannel) -> "Array":
    """All samples of a channel in SI; infinite where they clipped."""
    import numpy as np

    stream, places = stream_with(run, [channel.key])
    samples = read(stream, places, 0, stream.samples)[0].astype(np.float64)
    return chain_of(channel).apply(samples)


def in_pieces(run: Run, keys: list[str]) -> Iterator[tuple[int, "Array"]]:
    """(first sample, (channels, samples) in SI) of some channels of one stream, row by row."""
    import numpy as np

    setup = document_of(run)
    chains = [chain_of(channel_of(setup, key)) for key in keys]
    stream, places = stream_with(run, keys)
    for first, data in blocks(stream, 0, stream.samples):
        rows = [chain.apply(data[place]) for chain, place in zip(chains, places, strict=True)]
        yield first, np.stack(rows)


def times_with(run: Run, key: str) -> StreamTimes:
    """Where the samples of a channel's stream lie in time."""
    return times_of(run, stream_with(run, [key])[0])


def clipped_note(channel: FrozenChannel, clipped: int, samples: int) -> str:
    """What a reader must know of samples at the converter's rail; empty if there are none."""
    if not clipped:
        return ""
    return (
        f"{channel.name} clipped in {clipped} of {samples} samples: they have no value and are "
        "left out, so what it would have shown there is not in these results."
    )
