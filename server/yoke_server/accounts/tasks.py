"""Work for the worker process."""

from datetime import UTC, datetime, timedelta

from axes.models import AccessAttempt
from django.core.management import call_command
from procrastinate.contrib.django import app

KEPT = timedelta(days=1)


@app.periodic(cron="23 * * * *")
@app.task(name="forget_what_has_expired")
def forget_what_has_expired(timestamp: int = 0) -> None:
    """Wrong passwords of yesterday, and sessions that are over."""
    AccessAttempt.objects.filter(attempt_time__lt=datetime.now(UTC) - KEPT).delete()
    call_command("clearsessions")
