"""`manage.py worker`: does the tasks; first it has computed whatever is stale."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from yoke_server.derive.tasks import order_results
from yoke_server.wire.models import Setup


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        for setup_id in (
            Setup.objects.filter(runs__isnull=False).distinct().values_list("pk", flat=True)
        ):
            order_results(setup_id)
        call_command("procrastinate", "worker")
