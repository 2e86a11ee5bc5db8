"""A disk that is really full: samples go to a tablespace on a small tmpfs."""

import os
import subprocess
import tempfile
from contextlib import contextmanager
from pathlib import Path

import pytest
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.storage.bench_database import BenchDatabase
from yoke_server.record.recorder.storage.postgres.samples import PostgresStore
from yoke_server.record.recorder.storage.writer import Writer, WriterThread

from tests.processes import wait_for
from tests.recorded import begin, block, keeper, stream_of
from tests.server.lab import superuser

BLOCKS = 4000  # of 1.2 kB each, five a row: more than the small disk holds


def mount(*arguments: str) -> bool:
    return subprocess.run(["/usr/bin/mount", *arguments], capture_output=True).returncode == 0


@contextmanager
def small_disk(folder: Path):
    """Mounts 2 MB at ``folder``, the database's own; skips where that is not allowed."""
    if os.geteuid() != 0 or not mount("-t", "tmpfs", "-o", "size=2M", "tmpfs", str(folder)):
        pytest.skip("mounting a small disk needs root and its mount right")
    try:
        subprocess.run(["/usr/bin/chown", "postgres", str(folder)], check=True)
        yield
    finally:
        subprocess.run(["/usr/bin/umount", str(folder)], check=True)


def execute(statement: str) -> None:
    """As superuser, in the test's database."""
    with superuser(autocommit=True) as link:
        link.execute(statement)


@contextmanager
def samples_on(folder: Path):
    execute("TRUNCATE record_block")  # what other tests deleted would take its room
    execute(f"CREATE TABLESPACE small LOCATION '{folder}'")
    try:
        execute("ALTER TABLE record_block SET TABLESPACE small")
        yield
    finally:
        execute("TRUNCATE record_block")
        execute("ALTER TABLE record_block SET TABLESPACE pg_default")
        execute("DROP TABLESPACE small")


@pytest.fixture
def folder():
    made = Path(tempfile.mkdtemp(prefix="yoke-small-disk-"))
    made.chmod(0o711)
    yield made
    made.rmdir()


@pytest.mark.django_db(transaction=True)
def test_a_full_disk_is_told_and_nothing_is_lost_once_there_is_room(folder, setup):
    run = begin(setup)
    database = BenchDatabase(PostgresStore(setup.bench_id), "a test")
    writer = Writer(database, SystemClock(), lambda event: None)
    thread = WriterThread(writer, database)
    with small_disk(folder), samples_on(folder):
        thread.start()
        assert writer.holding.wait(5)
        stream = stream_of(run)
        one = keeper(run, stream, put=writer.put)
        for sequence in range(BLOCKS):
            one.take(block(sequence))
        one.flush()
        wait_for(lambda: writer.trouble, "the writer's complaint")
        assert "No space left on device" in writer.trouble
        assert writer.backlog_s > 0
        assert mount("-o", "remount,size=64M", str(folder))
        assert thread.finish(60)
        assert writer.trouble == ""
        rows = stream.blocks.order_by("first_sample").values_list("first_sample", "samples")
        assert [a for a, _ in rows] == [500 * i for i in range(BLOCKS // 5)]
