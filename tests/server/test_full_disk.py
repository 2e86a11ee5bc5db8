"""A disk that is really full: samples go to a tablespace on a small tmpfs."""

import os
import subprocess
import tempfile
from contextlib import contextmanager
from pathlib import Path

import pytest
from django.db import connection
from yoke_server.record.models import Run, RunState
from yoke_server.record.recorder.session import Session
from yoke_server.record.store import Writer
from yoke_server.wire.frozen import freeze

from tests.processes import wait_for
from tests.server.test_storage import FULL, block, stored

BLOCKS = 4000  # of 1.2 kB each: more than the small disk holds


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
    with connection.cursor() as cursor:
        cursor.execute(statement)


@contextmanager
def samples_on(folder: Path):
    execute(f"CREATE TABLESPACE small LOCATION '{folder}'")
    execute("ALTER TABLE record_block SET TABLESPACE small")
    try:
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
    run = Run.objects.create(
        setup=setup, number=1, name="C1 run 1", state=RunState.RECORDING, specimen="C1",
        frozen=freeze(setup).model_dump(mode="json"), width_m=0.0125, thickness_m=0.003,
        gauge_length_m=0.05,
    )  # fmt: skip
    with small_disk(folder), samples_on(folder):
        writer = Writer()
        writer.start()
        session = Session(run, writer, FULL, lambda a, b: None)
        session.open(block(0))
        for sequence in range(BLOCKS):
            session.push(block(sequence))
        wait_for(lambda: writer.trouble, "the writer's complaint")
        assert "No space left on device" in writer.trouble
        assert writer.backlog_s > 0
        assert mount("-o", "remount,size=64M", str(folder))
        writer.finish()
        assert writer.trouble == ""
        assert stored(session) == list(range(BLOCKS))
