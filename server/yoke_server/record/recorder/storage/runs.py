"""Beginning and ending a run in the database: one transaction each, repeated without harm."""

from contextlib import suppress

from django.db import IntegrityError

from yoke_server.record.models import FOLLOWING
from yoke_server.record.recorder.model.events import Began, NotBegun
from yoke_server.record.recorder.storage.sessions import RunSession
from yoke_server.record.recorder.storage.work import Close, Plan
from yoke_server.record.seal import seal_of


def begin_run(session: RunSession, plan: Plan) -> Began | NotBegun:
    """The run, its streams and the order's answer, together or not at all.

    An order that was given up, or whose time is past, begins nothing. Asked again after an
    answer was lost, this finds the run that it made.
    """
    if run := session.find_run(plan.order_key):
        return run  # even if it was called off meanwhile: then it must be closed
    if plan.cancelled:
        return NotBegun(plan.order_key, plan.cancelled)
    with suppress(IntegrityError):  # a run that was imported may have taken its number meanwhile
        return _begin(session, plan)
    try:
        return _begin(session, plan)
    except IntegrityError as error:
        return NotBegun(plan.order_key, f"The database refuses the run: {error}".split("\n")[0])


def _begin(session: RunSession, plan: Plan) -> Began | NotBegun:
    with session.transaction():
        if not session.finish_order(plan.order_key):
            return NotBegun(plan.order_key, "The order was given up, or stopped, before it began.")
        run_id = session.add_run(plan)
        for stream in plan.streams:
            session.add_stream(run_id, stream)
        session.add_computed(run_id)
        session.announce_run(run_id, plan.order_key)
    found = session.find_run(plan.order_key)
    assert found is not None
    return found


def close_run(session: RunSession, work: Close) -> None:
    """End a run for good: its length and its seal; closing a closed run changes nothing.

    The seal is the SHA-256 of the streams' chains, which were made while recording.
    """
    with session.transaction():
        state = session.lock_run(work.run_id)
        if state is None or work.state not in FOLLOWING[state]:
            return
        ordered = sorted(work.streams, key=lambda s: s.stream_id)
        for closed in ordered:
            session.end_stream(closed)
        session.end_run(work, seal_of(closed.chain for closed in ordered))
