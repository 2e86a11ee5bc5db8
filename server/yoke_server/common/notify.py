"""News between processes through PostgreSQL's NOTIFY: a hint to look at the rows."""

import json

from django.db import connection

NEWS = "yoke_news"
COMMAND = "yoke_command"
LIVE = "yoke_live"
STATE = "yoke_state"  # apart from the news: the recorder writes it and need not hear it


def notify(channel: str, **payload: int | str) -> None:
    """Sent when the current transaction commits."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [channel, json.dumps(payload)])
