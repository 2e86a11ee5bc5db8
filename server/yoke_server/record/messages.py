"""Messages by e-mail: guards that trip and runs that end, to those who asked for them."""

import logging
from datetime import datetime, timedelta

from django.conf import settings
from django.core.mail import send_mail
from django.utils.timezone import localtime, now
from procrastinate.contrib.django import app

from yoke_server.accounts.models import Preferences
from yoke_server.record.happenings import Happening, Sort, happenings_since

log = logging.getLogger(__name__)

TOLD = frozenset({Sort.GUARD, Sort.ENDS, Sort.INTERRUPTED, Sort.GAP})
OLDEST = timedelta(days=1)  # what happened before is not told any more


@app.periodic(cron="* * * * *")
@app.task(name="send_messages")
def send_messages(timestamp: int = 0) -> None:
    """Once a minute, all that happened since the last one in one message a person."""
    until = now()
    wanted = Preferences.objects.filter(mails=True, user__is_active=True).exclude(user__email="")
    for row in wanted.select_related("user"):
        begin = max(row.mailed_until or until, until - OLDEST)
        found = [h for h in happenings_since(begin) if h.sort in TOLD and begin <= h.at < until]
        if found and not _sent(row.user.email, found):
            continue  # tried again in a minute
        row.mailed_until = until
        row.save(update_fields=["mailed_until"])


def _sent(address: str, found: list[Happening]) -> bool:
    subject = _line(found[0]) if len(found) == 1 else f"{len(found)} things happened at the bench"
    lines = [f"{_time(h.at)}  {h.project}, {_line(h)}" for h in found]
    try:
        send_mail(subject, "\n".join(lines) + "\n", settings.DEFAULT_FROM_EMAIL, [address])
    except OSError as error:
        log.warning("No message to %s: %s", address, error)
        return False
    return True


SAID = {Sort.ENDS: "has ended", Sort.INTERRUPTED: "was interrupted"}


def _line(one: Happening) -> str:
    said = SAID.get(one.sort, "")
    words = f"{said}: {one.words}" if said and one.words else said or one.words
    return f"{one.run_name}: {words}"


def _time(at: datetime) -> str:
    return f"{localtime(at, settings.LABORATORY_ZONE):%Y-%m-%d %H:%M:%S}"
