"""Ordering a wiring sheet, and making it in the worker."""

from datetime import UTC, datetime

from django.conf import settings
from django.db import transaction
from django.template.loader import render_to_string

from yoke_server.accounts.actor import Actor
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks.worker import order, task
from yoke_server.report.models import WiringSheet
from yoke_server.report.wiring_sheet.contents import contents
from yoke_server.setups.models import Setup


def order_sheet(actor: Actor, setup_id: int, channel_key: str = "") -> WiringSheet:
    """Have the sheet of a setup as it stands made by the worker, or that of one of its channels.

    Everybody may who may read it. Raises a 404 problem for a channel that is not there.
    """
    with transaction.atomic():
        setup = Setup.objects.get(pk=setup_id)
        if channel_key and not setup.channels.filter(key=channel_key).exists():
            raise Problem(404, "This setup has no such channel.", field="channel")
        sheet, _ = WiringSheet.objects.update_or_create(
            setup=setup,
            channel_key=channel_key,
            defaults={"pdf": None, "made_at": None, "problem": ""},
        )
        order(
            make_sheet,
            f"sheet of {setup_id} {channel_key}".strip(),
            actor.user.pk,
            setup_id=setup_id,
            channel_key=channel_key,
        )
    return sheet


def _say_why(words: str, setup_id: int, channel_key: str = "") -> None:
    sheet = WiringSheet.objects.filter(setup_id=setup_id, channel_key=channel_key)
    sheet.update(problem=words[:300])
    notify(NEWS, kind="sheet", setup=setup_id)


def make(setup_id: int, channel_key: str = "") -> None:
    """The PDF of the setup, or of one channel, as it is when the worker comes to it."""
    from yoke_server.report.pdf import pdf_of

    with read_snapshot():
        setup = Setup.objects.select_related("project", "bench").get(pk=setup_id)
        parts = [
            render_to_string("report/wiring_sheet.html", shown)
            for shown in contents(setup, channel_key)
        ]
    pdf = pdf_of(*parts)
    with transaction.atomic():
        WiringSheet.objects.filter(setup_id=setup_id, channel_key=channel_key).update(
            pdf=pdf, version=setup.version, made_at=datetime.now(UTC), problem=""
        )
        notify(NEWS, kind="sheet", setup=setup_id)


make_sheet = task(seconds=settings.PDF_SECONDS, failed=_say_why)(make)
