"""Closing a run: its gaps, its length, its seal. Used by the recorder and after a crash."""

import hashlib
from datetime import UTC, datetime
from itertools import pairwise

from django.db import transaction

from yoke_server.config.notify import NEWS, notify
from yoke_server.ledger.services import record
from yoke_server.record.models import Block, Run, RunState, Stream


def find_gaps(sequences: list[int]) -> list[list[int]]:
    """[[first missing, last missing]] in rising sequence numbers."""
    return [[a + 1, b - 1] for a, b in pairwise(sequences) if b > a + 1]


def seal_of(stream: Stream) -> str:
    """SHA-256 over the stream's blocks in order: sequence, then samples."""
    digest = hashlib.sha256()
    blocks = stream.blocks.order_by("sequence").values_list("sequence", "data")
    for sequence, data in blocks.iterator(chunk_size=200):
        digest.update(sequence.to_bytes(8, "little"))
        digest.update(data)
    return digest.hexdigest()


@transaction.atomic
def close_run(run_id: int, state: RunState, why: str) -> None:
    """End a run for good; closing a closed run changes nothing."""
    run = Run.objects.select_for_update().get(pk=run_id)
    if run.state not in (RunState.STARTING, RunState.RECORDING):
        return
    digest = hashlib.sha256()
    for stream in run.streams.order_by("pk"):
        sequences = list(stream.blocks.order_by("sequence").values_list("sequence", flat=True))
        last = Block.objects.filter(stream=stream).order_by("-sequence").first()
        stream.gaps = find_gaps(sequences)
        stream.samples = last.first_sample + last.samples if last else 0
        stream.save(update_fields=["gaps", "samples"])
        digest.update(seal_of(stream).encode())
    run.state, run.ended_because, run.ended_at = state, why[:200], datetime.now(UTC)
    run.seal = digest.hexdigest()
    run.save(update_fields=["state", "ended_because", "ended_at", "seal"])
    record(None, f"Closed {run.name} as {state}: {why}"[:120], "event", run.pk)
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
