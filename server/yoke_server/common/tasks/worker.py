"""Tasks of the worker: each has a time limit, and whoever asked for it reads why it failed.

A task that hangs cannot be ended from outside: the worker writes down that it failed and ends
its own process. It is started again and goes on with the next one.
"""

import functools
import logging
import os
import threading
from collections.abc import Callable, Mapping
from contextvars import ContextVar
from typing import Any

from asgiref.sync import sync_to_async
from django.db import OperationalError, connection, transaction
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import AlreadyEnqueued, UniqueViolation
from procrastinate.jobs import Job, Status
from procrastinate.tasks import Task
from yoke_core.errors import CoreError

from yoke_server.common.http.problems import Problem

log = logging.getLogger(__name__)

HUNG = 70  # exit status
LAST_WORDS = 10.0  # s
FAILED_SQL = "SELECT procrastinate_finish_job_v1(%s, 'failed', false)"
MAX_ATTEMPTS = 2

KEPT_HOURS = 24  # of tasks that have ended

# A file may take an hour to read: nobody's report waits for that.
DOCUMENTS, FILES = QUEUES = ("default", "files")

_limit: "ContextVar[_Limit | None]" = ContextVar("limit of this task", default=None)


class _Limit:
    """The time limit of a task; restarted whenever the task reports progress."""

    def __init__(self, seconds: float, over: Callable[[], None]) -> None:
        self._seconds, self._over = seconds, over
        self.begin()

    def begin(self) -> None:
        self._timer = threading.Timer(self._seconds, self._over)
        self._timer.daemon = True
        self._timer.start()

    def end(self) -> None:
        self._timer.cancel()


def goes_on() -> None:
    """A part of a long task is done; the next one has the whole time again."""
    if limit := _limit.get():
        limit.end()
        limit.begin()


Work = Callable[..., None]
Tell = Callable[..., None]
_tell: dict[str, Tell] = {}  # by task name


def nobody(words: str, **arguments: Any) -> None:
    """For tasks whose failure nobody waits for."""


def task(
    *, seconds: float, failed: Tell = nobody, queue: str = DOCUMENTS
) -> Callable[[Work], Task[..., None, Any]]:
    """Make a function a task; ``failed(words, **arguments)`` tells whoever asked for it.

    queue : one of QUEUES; each may have a process of its own
    """

    def make(work: Work) -> Task[..., None, Any]:
        name = f"{work.__module__}.{work.__name__}"
        _tell[name] = failed

        @functools.wraps(work)
        def run(context: JobContext, person: int = 0, **arguments: Any) -> None:
            tell = functools.partial(failed, **arguments)
            over = functools.partial(_end_process, context.job.id, tell, seconds)
            limit = _Limit(seconds, over)
            token = _limit.set(limit)
            try:
                work(**arguments)
            except (Problem, CoreError) as error:
                tell(_sentence(str(error), error.hint))
                raise
            except Exception as error:
                if not isinstance(error, OperationalError):
                    tell(_sentence("Something went wrong.", "Look into the worker's log."))
                raise
            finally:
                limit.end()
                _limit.reset(token)

        retry = RetryStrategy(max_attempts=MAX_ATTEMPTS, retry_exceptions={OperationalError})
        return app.task(name=name, queue=queue, pass_context=True, retry=retry)(run)

    return make


def _sentence(title: str, hint: str) -> str:
    return f"{title} {hint}".strip()


def _end_process(job_id: int, tell: Callable[[str], None], seconds: float) -> None:
    """Called in the timer's thread, with a separate connection."""
    log.error("Job %s did not end within %g s: this process ends.", job_id, seconds)
    threading.Timer(LAST_WORDS, os._exit, (HUNG,)).start()  # even if the database hangs too
    try:
        tell(f"It took longer than {seconds:g} s and was given up. Make it smaller, or try again.")
        with connection.cursor() as cursor:
            cursor.execute(FAILED_SQL, [job_id])
    finally:
        os._exit(HUNG)


def order(work: Task[..., None, Any], of: str, person: int, **arguments: Any) -> int:
    """Queue a task for a person and return its number.

    of : identifies the result; an equal task that is still queued is returned instead

    The more tasks of a person are queued, the lower the priority of the next one: many tasks of
    one person do not delay those of others.
    """
    waiting = ProcrastinateJob.objects.filter(status="todo")
    ahead = waiting.filter(args__person=person).count()
    configured = work.configure(queueing_lock=of, priority=-ahead)
    while True:
        try:
            with transaction.atomic():
                return int(configured.defer(person=person, **arguments))
        except AlreadyEnqueued:
            if found := waiting.filter(queueing_lock=of).first():
                return found.pk  # or else it was begun just now


@app.periodic(cron="* * * * *")
@app.task(name="recover_stalled_jobs")
async def recover_stalled_jobs(timestamp: int = 0) -> None:
    """Jobs of workers that died: tried once more; given up if they were tried before."""
    for job in await app.job_manager.get_stalled_jobs():
        if job.attempts + 1 < MAX_ATTEMPTS and await _try_again(job):
            continue
        await app.job_manager.finish_job(job, Status.FAILED, delete_job=False)
        await sync_to_async(_tell_given_up)(job.id)


def _tell_given_up(job_id: int) -> None:
    job = ProcrastinateJob.objects.get(pk=job_id)
    known: Mapping[str, object] = job.args
    arguments = {name: value for name, value in known.items() if name != "person"}
    tell: Tell = _tell.get(job.task_name, nobody)
    tell("The worker ended while it worked at this.", **arguments)


async def _try_again(job: Job) -> bool:
    """False where the same work is waiting already."""
    try:
        await app.job_manager.retry_job(job)
    except UniqueViolation:
        return False
    return True


@app.periodic(cron="17 * * * *")
@app.task(name="prune_tasks")
async def prune_tasks(timestamp: int = 0) -> None:
    """Tasks that ended yesterday are of no use to anybody."""
    await app.job_manager.delete_old_jobs(
        nb_hours=KEPT_HOURS, include_failed=True, include_cancelled=True, include_aborted=True
    )
