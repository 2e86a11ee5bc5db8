"""Ordering a wiring sheet, and making it in the worker."""

from datetime import UTC, datetime

from django.conf import settings
from django.db import transaction
from django.template.loader import render_to_string

from yoke_server.common.notify import NEWS, notify
from yoke_server.common.one_state import one_state
from yoke_server.common.worker import task
from yoke_server.report.models import WiringSheet
from yoke_server.report.wiring_sheet.contents import contents
from yoke_server.wire.models import Setup


def order_sheet(setup_id: int) -> WiringSheet:
    """Have the sheet of a setup as it stands made by the worker; everybody may who may read it."""
    with transaction.atomic():
        setup = Setup.objects.get(pk=setup_id)
        sheet, _ = WiringSheet.objects.update_or_create(
            setup=setup, defaults={"pdf": None, "made_at": None, "problem": ""}
        )
        make_sheet.defer(setup_id=setup_id)
    return sheet


def _say_why(words: str, setup_id: int) -> None:
    WiringSheet.objects.filter(setup_id=setup_id).update(problem=words[:300])
    notify(NEWS, kind="sheet", setup=setup_id)


def make(setup_id: int) -> None:
    """The PDF of the setup as it is when the worker comes to it."""
    from yoke_server.report.pdf import pdf_of

    with one_state():
        setup = Setup.objects.select_related("project", "bench").get(pk=setup_id)
        shown = contents(setup)
    pdf = pdf_of(render_to_string("report/wiring_sheet.html", shown))
    with transaction.atomic():
        WiringSheet.objects.filter(setup_id=setup_id).update(
            pdf=pdf, version=setup.version, made_at=datetime.now(UTC), problem=""
        )
        notify(NEWS, kind="sheet", setup=setup_id)


make_sheet = task(seconds=settings.PDF_SECONDS, failed=_say_why)(make)
