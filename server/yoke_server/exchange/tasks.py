"""Work for the worker process."""

from yoke_server.common.tasks.worker import FILES, task
from yoke_server.exchange.models import FileState, ReadFile


def say_why(words: str, key: str) -> None:
    """The person reads beside the file why no run came of it; it may be tried otherwise."""
    reading = ReadFile.objects.filter(pk=key, state=FileState.READING)
    reading.update(problem=words[:300], state=FileState.HERE)


def read_in(key: str) -> None:
    """Make the run of a file."""
    from yoke_server.exchange.read_in.run import make_run

    make_run(key)


read_file_in = task(seconds=3600, failed=say_why, queue=FILES)(read_in)
