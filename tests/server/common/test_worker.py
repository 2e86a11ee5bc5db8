"""The worker: what hangs is given up with its process, the queue goes on, the person reads why."""

import os
import subprocess
import sys
import textwrap
import threading
import time
import uuid

import pytest
from asgiref.sync import async_to_sync
from django.db import connection
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from yoke_server.common.tasks import worker
from yoke_server.exchange.tasks import import_file
from yoke_server.report.models import Report
from yoke_server.report.services import order_pdf, write_report

from tests import processes, recorded
from tests.processes import wait_for

HANGS = """
import django, sys, time
django.setup()
from yoke_server.report import pdf
real = pdf.render
def render(report):
    while "hang" in report.title:
        time.sleep(0.1)
    return real(report)
pdf.render = render
from django.core.management import call_command
call_command("worker")
"""

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def report(setup, engineer):
    run = recorded.record(setup, [recorded.block(i) for i in range(5)])
    return write_report(engineer, run.pk)


def hanging_worker(database):
    env = {**processes.environment(database), "YOKE_PDF_SECONDS": "2"}
    env["PYTHONPATH"] = os.pathsep.join([*sys.path, env.get("PYTHONPATH", "")])
    return processes.process(["-c", textwrap.dedent(HANGS)], env, stderr=subprocess.DEVNULL)


def test_a_task_that_hangs_ends_its_process_and_the_next_one_is_done(database, report, engineer):
    Report.objects.filter(pk=report.pk).update(title="Made to hang")
    hung = order_pdf(engineer, report.pk)
    with hanging_worker(database) as child:
        assert child.wait(timeout=30) == worker.HUNG
    assert ProcrastinateJob.objects.get(pk=hung).status == "failed"
    report.refresh_from_db()
    assert "took longer than 2 s" in report.problem
    Report.objects.filter(pk=report.pk).update(title="Not any more")
    second = order_pdf(engineer, report.pk)
    with hanging_worker(database):
        # no stress and strain in this run, so its report cannot be made: that is said too
        wait_for(lambda: ProcrastinateJob.objects.get(pk=second).status == "failed", "the next")
    report.refresh_from_db()
    assert report.problem
    assert "longer" not in report.problem


def test_a_long_task_has_the_whole_time_again_for_each_part():
    over = threading.Event()
    limit = worker._Limit(0.3, over.set)
    token = worker._limit.set(limit)
    try:
        for _ in range(6):
            time.sleep(0.15)
            worker.goes_on()
        assert not over.is_set()  # after three times the limit
        assert over.wait(5)  # without a word it ends
    finally:
        worker._limit.reset(token)
        limit.end()
    worker.goes_on()  # outside a task it is of no account


def left_by_a_dead_worker(report_id, attempts):
    """A job that a worker which is no more was doing."""
    job = app.configure_task("yoke_server.report.tasks.make").defer(report_id=report_id)
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE procrastinate_jobs SET status = 'doing', attempts = %s, worker_id = NULL "
            "WHERE id = %s",
            [attempts, job],
        )
    return job


def test_what_a_dead_worker_left_is_tried_once_more_then_given_up(report):
    first, second = left_by_a_dead_worker(report.pk, 0), left_by_a_dead_worker(report.pk, 1)
    async_to_sync(worker.recover_stalled_jobs.func)()
    assert ProcrastinateJob.objects.get(pk=first).status == "todo"
    assert ProcrastinateJob.objects.get(pk=second).status == "failed"
    report.refresh_from_db()
    assert "worker ended" in report.problem


def test_what_a_dead_worker_left_is_given_up_where_the_same_waits_already(report, engineer):
    waiting = ProcrastinateJob.objects.get(pk=order_pdf(engineer, report.pk))
    left = left_by_a_dead_worker(report.pk, 0)
    ProcrastinateJob.objects.filter(pk=left).update(queueing_lock=waiting.queueing_lock)
    async_to_sync(worker.recover_stalled_jobs.func)()
    assert state_of(left) == "failed"
    assert state_of(waiting.pk) == "todo"


def waiting():
    """Documents that wait, as the worker takes them: the higher priority first, then in order."""
    documents = ProcrastinateJob.objects.filter(status="todo", task_name__endswith=".make")
    return list(documents.order_by("-priority", "id"))


def test_what_waits_already_is_ordered_once(report, engineer, as_role):
    first = order_pdf(engineer, report.pk)
    assert order_pdf(engineer, report.pk) == first
    path = f"/api/setups/{report.run.setup_id}/wiring-sheet"
    key = report.run.setup.channels.get(name="SG1").key
    for role in ("technician", "reviewer", "technician"):
        assert as_role(role).post(path).status_code == 202
        assert as_role(role).post(f"{path}?channel={key}").status_code == 202
    assert len(waiting()) == 3  # the report, the sheet, and that of one channel


def test_many_orders_of_one_person_keep_nobody_waiting(report, engineer, as_role):
    setup = report.run.setup
    person = as_role("technician")
    for key in setup.channels.values_list("key", flat=True):
        assert person.post(f"/api/setups/{setup.pk}/wiring-sheet?channel={key}").status_code == 202
    order_pdf(engineer, report.pk)
    then = [job.task_name.rpartition(".")[0] for job in waiting()]
    assert then[:2] == ["yoke_server.report.wiring_sheet.services", "yoke_server.report.tasks"]
    assert len(then) == setup.channels.count() + 1


def test_files_are_read_by_a_process_of_their_own(database, report, engineer):
    """So that a report need not wait while one is read that takes an hour."""
    report_job = order_pdf(engineer, report.pk)
    file_job = import_file.defer(key=str(uuid.uuid4()))
    command = [processes.MANAGE, "worker", "--queue", "files"]
    with processes.process(command, processes.environment(database)):
        wait_for(lambda: state_of(file_job) in ("succeeded", "failed"), "the file's task")
    assert state_of(report_job) == "todo"


def state_of(job):
    return ProcrastinateJob.objects.get(pk=job).status
