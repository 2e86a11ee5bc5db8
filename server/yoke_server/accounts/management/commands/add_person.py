"""`manage.py add_person NAME ROLE`: add somebody who may sign in; asks for the password.

Of somebody who is there already it changes nothing, unless told to with ``--replace``.
"""

import getpass
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from yoke_server.accounts.models import Role, User
from yoke_server.accounts.services import add_person, replace_person
from yoke_server.common.http.problems import Problem


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")
        parser.add_argument("role", choices=Role.values)
        parser.add_argument(
            "--replace",
            action="store_true",
            help="give a person who is there already this role and a new password, and end their "
            "sessions",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        name, role = options["name"], Role(options["role"])
        known = User.objects.filter(username=name).first()
        if known and not options["replace"]:
            stands = known.role if known.is_active else "removed"
            raise CommandError(
                f"There is a person {name} already ({stands}); nothing was changed. "
                "Give another name, or --replace for this role and a new password."
            )
        password = getpass.getpass("Password: ")
        try:
            if known:
                replace_person(name, role, password)
            else:
                add_person(name, role, password)
        except Problem as problem:
            raise CommandError(f"{problem} {problem.hint}") from problem
