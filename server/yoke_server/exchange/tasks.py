"""Work for the worker process."""

from yoke_server.common.tasks.worker import FILES, task
from yoke_server.exchange.models import FileState, ImportedFile


def say_why(words: str, key: str) -> None:
    """The person reads beside the file why no run came of it; it may be tried otherwise."""
    reading = ImportedFile.objects.filter(pk=key, state=FileState.READING)
    reading.update(problem=words[:300], state=FileState.HERE)


def import_run(key: str) -> None:
    """Make the run of a file."""
    from yoke_server.exchange.importing.run import make_run

    make_run(key)


import_file = task(seconds=3600, failed=say_why, queue=FILES)(import_run)
