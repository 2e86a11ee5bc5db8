"""`manage.py worker`: does the tasks; first it has computed whatever is stale."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from yoke_server.common.tasks.worker import DOCUMENTS, QUEUES
from yoke_server.derive.tasks import order_results
from yoke_server.setups.models import Setup


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--queue", choices=QUEUES, help="whose tasks; all, if none is named")

    def handle(self, *args: Any, queue: str | None = None, **options: Any) -> None:
        if queue in (None, DOCUMENTS):
            order_all_results()
        call_command("procrastinate", "worker", *(["--queues", queue] if queue else []))


def order_all_results() -> None:
    ran = Setup.objects.filter(runs__isnull=False).distinct()
    for setup_id in ran.values_list("pk", flat=True):
        order_results(setup_id)
