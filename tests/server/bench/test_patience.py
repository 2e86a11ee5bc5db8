"""A connection whose other end is gone is given up within seconds, on both ends."""

import pytest
from django.db import connection

SECONDS = {"tcp_keepalives_idle": 2, "tcp_keepalives_interval": 1, "tcp_keepalives_count": 3}


@pytest.mark.django_db
def test_a_database_connection_gives_up_within_seconds():
    with connection.cursor() as cursor:
        for name, most in SECONDS.items():
            cursor.execute(f"SHOW {name}")
            assert 0 < int(cursor.fetchone()[0].rstrip("s")) <= most
        cursor.execute("SHOW tcp_user_timeout")
        assert cursor.fetchone()[0] in ("5000", "5s")
    ours = connection.connection.info.get_parameters()
    assert 0 < int(ours["keepalives_idle"]) + 3 * int(ours["keepalives_interval"]) <= 6
    assert ours["tcp_user_timeout"] == "5000"
