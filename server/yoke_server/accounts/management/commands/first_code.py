"""`manage.py first_code`: the code for the first person; nothing once there are people."""

from typing import Any

from django.core.management.base import BaseCommand

from yoke_server.accounts.services import first_code


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(first_code())
