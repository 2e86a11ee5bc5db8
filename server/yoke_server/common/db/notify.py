"""News between processes through PostgreSQL's NOTIFY: a hint to look at the rows."""

import hashlib
import json

from yoke_server.common.db.stops_first import own_connection

NEWS = "yoke_news"
COMMAND = "yoke_command"
ANSWERS = "yoke_answers"  # to orders, and of tasks
LIVE = "yoke_live"
SESSIONS = "yoke_sessions"  # which have ended
STATE = "yoke_state"  # apart from the news: the recorder writes it and need not hear it
RECORDER = "recorder"  # who some news are by: what it wrote itself it need not read again


def session_mark(key: str) -> str:
    """A session as news may name it: nobody comes in by it."""
    return hashlib.sha256(key.encode()).hexdigest()[:32]


def notify(channel: str, **payload: int | str | None) -> None:
    """Sent when the current transaction commits."""
    with own_connection().cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [channel, json.dumps(payload)])
