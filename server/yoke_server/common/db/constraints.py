"""What the database itself refuses."""

from django.db import models
from django.db.models import Q


def positive(field: str) -> models.CheckConstraint:
    """The database refuses a value of ``field`` that is not above zero."""
    return models.CheckConstraint(
        condition=Q(**{f"{field}__isnull": True}) | Q(**{f"{field}__gt": 0}),
        name=f"%(class)s_{field}_positive",
    )
