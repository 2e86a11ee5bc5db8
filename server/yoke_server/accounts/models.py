from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    ENGINEER = "engineer"
    TECHNICIAN = "technician"
    REVIEWER = "reviewer"


class User(AbstractUser):
    """A person with one role; who was removed is not ``is_active``, and stays in the ledger."""

    role = models.CharField(max_length=12, choices=Role.choices, default=Role.REVIEWER)
    session_number = models.PositiveIntegerField(default=0)  # sessions of a lower one have ended

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(role__in=Role.values), name="user_role_known")
        ]

    def _get_session_auth_hash(self, secret: str | None = None) -> str:
        """Django compares it with a session's: this one changes with the number, too."""
        password, self.password = self.password, f"{self.password}:{self.session_number}"
        try:
            return super()._get_session_auth_hash(secret)  # type: ignore[misc, no-any-return]
        finally:
            self.password = password


class Preferences(models.Model):
    """How a person wants readings and tables shown; what is not in it is as for everybody.

    display : {quantity: {"unit", "decimals"}}; columns : {table: [names of its columns]}
    looked_at : up to when they have seen what happened at the benches
    mails : whether they are told of it by e-mail, which they were up to ``mailed_until``
    """

    user = models.OneToOneField(User, models.CASCADE, related_name="preferences")
    display = models.JSONField(default=dict)
    columns = models.JSONField(default=dict)
    looked_at = models.DateTimeField(null=True)
    mails = models.BooleanField(default=False)
    mailed_until = models.DateTimeField(null=True)


class PasswordTry(models.Model):
    """A password that was tried and not right, or is being looked at."""

    at = models.DateTimeField(auto_now_add=True)
    username = models.CharField(max_length=150)
    address = models.CharField(max_length=45)

    class Meta:
        indexes = [
            models.Index(fields=["username", "at"], name="try_of_account"),
            models.Index(fields=["address", "at"], name="try_from_address"),
        ]
