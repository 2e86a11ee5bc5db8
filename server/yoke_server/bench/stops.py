"""Stops: given by a person, heard by the bench's recorder, in force without any table.

A notice alone does it: nothing that is full, locked or read-only keeps a stop back. It is
written down afterwards, by whoever can.
"""

import json
import logging
import uuid
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from django.db import Error, transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Bench, StopRequest
from yoke_server.bench.services import require_yoke
from yoke_server.common.db.notify import notify
from yoke_server.common.db.stops_first import alias, own_connection
from yoke_server.ledger.services import record

log = logging.getLogger(__name__)

STOPS = "yoke_stops"
TELL_SQL = """
WITH asked AS (SELECT clock_timestamp() AS at)
SELECT pg_notify(%s, (%s::jsonb || jsonb_build_object('requested_at', at))::text), at FROM asked
"""
PATIENCE = "1s"  # for a lock, when a stop is written down


@dataclass(frozen=True, slots=True)
class StopRequested:
    """Somebody wants everything to stand; it never comes too late.

    emergency : nothing moves after it until a person releases it
    requested_at : by the database's clock
    run : the only run that it is meant for; none: whatever there is
    """

    key: str
    emergency: bool
    requested_at: datetime
    by: str = ""
    why: str = "Stopped by hand"
    run: int | None = None


def read_stop(payload: str) -> tuple[int, StopRequested]:
    """The bench that a notice is for, and the stop."""
    found = json.loads(payload)
    at = datetime.fromisoformat(found.pop("requested_at"))
    return int(found.pop("bench")), StopRequested(requested_at=at, **found)


def request_stop(actor: Actor, bench_id: int, *, run: int | None = None) -> "GivenStop":
    """Have what is recorded, or about to be, and what moves stopped."""
    require(actor, "drive the bench")
    require_yoke(actor, Bench.objects.select_related("yoke_holder").get(pk=bench_id))
    return _tell(actor, bench_id, {"emergency": False, "run": run, "why": "Stopped by hand"})


def request_emergency_stop(actor: Actor, bench_id: int) -> "GivenStop":
    """Have everything stand until it is released: everybody may who is signed in."""
    Bench.objects.only("pk").get(pk=bench_id)
    return _tell(actor, bench_id, {"emergency": True, "run": None, "why": "Emergency stop"})


def request_emergency_stops(actor: Actor) -> "list[GivenStop]":
    """From a page that shows no bench: on those that this person drives, or else on all."""
    benches = Bench.objects.filter(devices__isnull=False).distinct()
    mine = benches.filter(yoke_holder=actor.user)
    keys = [b.pk for b in (mine if mine.exists() else benches)]
    return [request_emergency_stop(actor, key) for key in keys]


def _tell(actor: Actor, bench_id: int, what: dict[str, object]) -> "GivenStop":
    """Not inside a transaction: the recorder hears of it at once."""
    by = actor.user.get_full_name() or actor.user.username
    said = {"key": str(uuid.uuid4()), "by": by, **what}
    with own_connection().cursor() as cursor:
        cursor.execute(TELL_SQL, [STOPS, json.dumps({"bench": bench_id, **said})])
        (_, at) = cursor.fetchone()
    stop = StopRequested(requested_at=at, **said)  # type: ignore[arg-type]
    _write_down(actor, bench_id, stop)
    return GivenStop(actor, bench_id, stop)


@dataclass(frozen=True, slots=True)
class GivenStop:
    """A stop, and who gave it to which bench."""

    actor: Actor
    bench_id: int
    stop: StopRequested

    def tell_again(self) -> None:
        """The recorder's connection may have been cut just then; it takes each stop once."""
        said = asdict(self.stop) | {"requested_at": self.stop.requested_at.isoformat()}
        notify(STOPS, bench=self.bench_id, **said)
        _write_down(self.actor, self.bench_id, self.stop)


def _write_down(actor: Actor, bench_id: int, stop: StopRequested) -> None:
    """Store the stop if the database accepts it; the recorder stores what it received anyway."""
    try:
        with transaction.atomic(using=alias()), own_connection().cursor() as cursor:
            cursor.execute(f"SET LOCAL lock_timeout = '{PATIENCE}'")
            if keep_stop(bench_id, stop):
                record(actor, entry_of(bench_id, stop))
    except Error as error:
        log.error("A stop is not written down: %s", str(error).split("\n")[0])


def entry_of(bench_id: int, stop: StopRequested) -> str:
    """What the ledger says of a stop."""
    name = Bench.objects.filter(pk=bench_id).values_list("name", flat=True).first()
    return f"{stop.why} on {name or bench_id}"


def keep_stop(bench_id: int, stop: StopRequested, **more: Any) -> bool:
    """Store a stop unless it is stored already; True if it was not.

    more : further fields of its row, which are put whether it was there or not
    """
    fields = asdict(stop)
    row, fresh = StopRequest.objects.get_or_create(
        key=fields.pop("key"), defaults={"bench_id": bench_id, **fields, **more}
    )
    if more and not fresh:
        StopRequest.objects.filter(pk=row.pk).update(**more)
    return fresh


def stop_of(row: StopRequest) -> StopRequested:
    return StopRequested(str(row.key), row.emergency, row.requested_at, row.by, row.why, row.run)
