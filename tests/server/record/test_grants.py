"""The recorder's role adds samples and changes none; the application's is no superuser."""

import os
from urllib.parse import urlsplit

import psycopg
import pytest
from django.db import connection

from tests import recorded

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def as_recorder(setup):
    run = recorded.record(setup, [recorded.block(i) for i in range(10)])
    assert run.seal
    name = connection.settings_dict["NAME"]
    with psycopg.connect(
        os.environ["YOKE_RECORDER_DATABASE_URL"], dbname=name, autocommit=True
    ) as link:
        yield link


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE record_block SET data = data",
        "DELETE FROM record_block",
        "TRUNCATE record_block",
        "UPDATE record_enveloperow SET pairs = 1",
        "DELETE FROM record_segment",
        "DELETE FROM record_run",
        "UPDATE record_run SET revision_id = revision_id",
        "UPDATE ledger_entry SET action = ''",
        "SELECT password FROM accounts_user",
        "SELECT session_data FROM django_session",
        "INSERT INTO setups_setuprevision DEFAULT VALUES",
        "UPDATE bench_device SET driver = driver",
        "CREATE TABLE mine (id int)",
        "DROP TABLE record_block",
        "COPY record_run TO PROGRAM 'true'",
    ],
)
def test_the_recorder_does_no_more_than_it_needs(as_recorder, statement):
    with pytest.raises(psycopg.errors.InsufficientPrivilege):
        as_recorder.execute(statement)


def test_it_reads_and_ends_runs(as_recorder):
    assert as_recorder.execute("SELECT count(*) FROM record_block").fetchone() == (2,)
    as_recorder.execute("UPDATE record_run SET ended_because = 'seen'")


@pytest.mark.parametrize("name", ["DATABASE_URL", "YOKE_RECORDER_DATABASE_URL"])
def test_no_process_of_ours_is_superuser(name):
    role = urlsplit(os.environ[name]).username
    with connection.cursor() as cursor:
        cursor.execute("SELECT rolsuper, rolcreaterole FROM pg_roles WHERE rolname = %s", [role])
        assert cursor.fetchone() == (False, False)
