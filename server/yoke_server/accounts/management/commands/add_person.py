"""`manage.py add_person NAME ROLE`: add somebody who may sign in; asks for the password."""

import getpass
from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError

from yoke_server.accounts.models import Role
from yoke_server.accounts.services import add_person


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")
        parser.add_argument("role", choices=Role.values)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            add_person(options["name"], Role(options["role"]), getpass.getpass("Password: "))
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from error
