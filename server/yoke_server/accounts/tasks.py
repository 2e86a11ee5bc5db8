"""Work for the worker process."""

from django.core.management import call_command
from procrastinate.contrib.django import app

from yoke_server.accounts.tries import forget_old_tries


@app.periodic(cron="23 * * * *")
@app.task(name="forget_what_has_expired")
def forget_what_has_expired(timestamp: int = 0) -> None:
    """Wrong passwords that count no more, and sessions that are over."""
    forget_old_tries()
    call_command("clearsessions")
