"""Hearing stops, writing them down, and the sign that the database can be written to."""

from typing import Any

from django.db import connection, transaction
from django.db.models import Q

from yoke_server.bench.models import RecorderSign, StopRequest
from yoke_server.bench.stops import (
    STOPS,
    StopRequested,
    entry_of,
    keep_stop,
    read_stop,
    stop_of,
)
from yoke_server.common.clock import clock_timestamp
from yoke_server.common.db.notify import ANSWERS, notify
from yoke_server.common.db.statement import run
from yoke_server.ledger.services import record
from yoke_server.record.recorder.storage.postgres.session import ListeningSession, PostgresSession


class PostgresStops(ListeningSession):
    """A database session that listens to stops only."""

    channels = (STOPS,)

    def wait(self, timeout: float) -> list[StopRequested]:
        """Stops of this bench that were given meanwhile; back at once when it is woken."""
        heard = [read_stop(notice.payload) for notice in self.notices(timeout)]
        return [stop for bench, stop in heard if bench == self._bench_id]

    def standing_stops(self) -> list[tuple[StopRequested, bool]]:
        rows = StopRequest.objects.filter(
            Q(confirmed=False) | Q(emergency=True, released_at=None), bench_id=self._bench_id
        )
        return [(stop_of(row), row.confirmed) for row in rows.order_by("requested_at")]

    def tell(self, key: str, problem: str) -> None:
        notify(ANSWERS, order=key, problem=problem)

    def ping(self) -> None:
        run("SELECT 1")


class PostgresSigns(PostgresSession):
    """Writes each second, and what could not be written when a stop was given."""

    def open(self) -> None:
        """A write that takes longer than a stop may wait proves nothing."""
        if connection.connection is None:
            super().open()
            with connection.cursor() as cursor:
                cursor.execute("SET statement_timeout = '3s'")

    def sign(self, holder: str) -> bool:
        mine = RecorderSign.objects.filter(pk=self._bench_id, holder=holder)
        return bool(mine.update(at=clock_timestamp()))

    def keep_stop(self, stop: StopRequested, problem: str) -> None:
        write_down_stop(self._bench_id, stop, confirmed=True, problem=problem[:300])


@transaction.atomic
def write_down_stop(bench_id: int, stop: StopRequested, **more: Any) -> None:
    """What became of a stop; its entry in the ledger, if there is none yet."""
    if keep_stop(bench_id, stop, **more):
        record(None, f"{entry_of(bench_id, stop)} by {stop.by or 'somebody'}")
