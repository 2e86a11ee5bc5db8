"""Making people."""

from django.contrib.auth.password_validation import validate_password
from django.db import transaction

from yoke_server.accounts.models import Role, User
from yoke_server.ledger.services import record


@transaction.atomic
def add_person(name: str, role: Role, password: str) -> User:
    """Add a person, or give an existing one a new role and password.

    Raises ValidationError (of Django) for a password that is too weak.
    """
    person = User.objects.filter(username=name).first() or User(username=name, first_name=name)
    validate_password(password, person)
    person.role = role
    person.set_password(password)
    person.save()
    record(None, f"Added {name} as {role}")
    return person
