from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    ENGINEER = "engineer"
    TECHNICIAN = "technician"
    REVIEWER = "reviewer"


class User(AbstractUser):
    """A person with one role."""

    role = models.CharField(max_length=12, choices=Role.choices, default=Role.REVIEWER)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(role__in=Role.values), name="user_role_known")
        ]
