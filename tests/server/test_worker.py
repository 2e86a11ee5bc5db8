"""The worker: what hangs is given up with its process, the queue goes on, the person reads why."""

import os
import subprocess
import sys
import textwrap

import pytest
from django.db import connection
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from yoke_server.common import worker
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
    worker.settle_what_was_left()
    assert ProcrastinateJob.objects.get(pk=first).status == "todo"
    assert ProcrastinateJob.objects.get(pk=second).status == "failed"
    report.refresh_from_db()
    assert "worker ended" in report.problem
