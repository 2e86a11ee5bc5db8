"""Completing rows: rows with fields that are no numbers are dropped, or the fields interpolated."""

from collections.abc import Iterable, Iterator

import numpy as np

from yoke_server.exchange.importing.rows import Batch

MAX_BRIDGE = 100_000  # rows


def complete(batches: Iterable[Batch], doubtful: str) -> Iterator[Batch]:
    """``doubtful`` says what becomes of rows with a field that is no number: drop or bridge."""
    return _bridged(batches) if doubtful == "bridge" else _dropped(batches)


def _dropped(batches: Iterable[Batch]) -> Iterator[Batch]:
    for batch in batches:
        good = np.isfinite(batch.values).all(axis=1)
        yield Batch(batch.values[good], batch.lines[good])


def _bridged(batches: Iterable[Batch]) -> Iterator[Batch]:
    """Straight lines over what is missing, between rows that are whole.

    From row to row no further than `MAX_BRIDGE`: beyond that the rows are left out.
    """
    waiting: Batch | None = None  # the last whole row and what followed it
    for fresh in batches:
        batch = _after(waiting, fresh)
        whole = np.flatnonzero(np.isfinite(batch.values).all(axis=1))
        if not whole.size:
            continue
        first, last = int(whole[0]), int(whole[-1])
        yield Batch(_filled(batch.values[first : last + 1])[:-1], batch.lines[first:last])
        waiting = Batch(batch.values[last:], batch.lines[last:])
        if len(waiting.lines) > MAX_BRIDGE:
            yield _head(waiting)
            waiting = None
    if waiting:
        yield _head(waiting)


def _head(waiting: Batch) -> Batch:
    return Batch(waiting.values[:1], waiting.lines[:1])


def _after(waiting: Batch | None, fresh: Batch) -> Batch:
    if waiting is None:
        return fresh
    values = np.concatenate([waiting.values, fresh.values])
    return Batch(values, np.concatenate([waiting.lines, fresh.lines]))


def _filled(values: np.ndarray) -> np.ndarray:
    rows = np.arange(len(values))
    for column in values.T:
        good = np.isfinite(column)
        if not good.all():
            column[~good] = np.interp(rows[~good], rows[good], column[good])
    return values
