"""Accepting a calibration, and making its certificate's PDF in the worker."""

from datetime import date

from django.conf import settings
from django.db import transaction
from django.template.loader import render_to_string

from yoke_server.accounts.actor import Actor
from yoke_server.calibrate.calibrations.services import accept
from yoke_server.calibrate.models import Calibration, CalibrationState
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks.worker import order, task
from yoke_server.report.calibration_certificate.contents import contents
from yoke_server.sensors.models import Certificate


@transaction.atomic
def accept_and_print(
    actor: Actor, calibration_id: int, *, number: str, due_on: date | None
) -> None:
    """Put a calibration in force, and have its PDF made: both or neither."""
    accept(actor, calibration_id, number=number, due_on=due_on)
    order_certificate(actor, calibration_id)


def order_certificate(actor: Actor, calibration_id: int) -> None:
    """Have the PDF of an accepted calibration made by the worker; one that is there stays."""
    row = Calibration.objects.get(pk=calibration_id)
    if row.state != CalibrationState.ACCEPTED:
        raise Problem(
            409,
            "The calibration is not accepted: it has no certificate.",
            code=ProblemType.NOT_READY,
            hint="An engineer accepts it once all its steps are captured.",
        )
    order(
        make_certificate,
        f"certificate of {calibration_id}",
        actor.user.pk,
        calibration_id=calibration_id,
    )


def make(calibration_id: int) -> None:
    """The PDF becomes the certificate's own file, for good."""
    from yoke_server.report.pdf import pdf_of

    with read_snapshot():
        row = Calibration.objects.select_related(
            "setup__bench", "revision", "sensor", "certificate", "begun_by", "ended_by"
        ).get(pk=calibration_id)
        assert row.certificate is not None
        number, shown = row.certificate.pk, contents(row)
        text = render_to_string("report/calibration_certificate.html", shown)
    pdf = pdf_of(text)
    with transaction.atomic():
        certificate = Certificate.objects.select_for_update().get(pk=number)
        if not certificate.has_file:
            certificate.file, certificate.file_size = pdf, len(pdf)
            certificate.file_name = f"{certificate.number}.pdf"
            certificate.save(update_fields=["file", "file_size", "file_name"])
        notify(NEWS, kind="library")
        notify(NEWS, kind="calibration", setup=row.setup_id)


def _say_why(words: str, calibration_id: int) -> None:
    """It can be ordered again: the screen offers that while there is no file."""
    setup_id = Calibration.objects.values_list("setup_id", flat=True).get(pk=calibration_id)
    notify(NEWS, kind="calibration", setup=setup_id)


make_certificate = task(seconds=settings.PDF_SECONDS, failed=_say_why)(make)
