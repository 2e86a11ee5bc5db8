from django.db import models

from yoke_server.record.models import Run


class TensionRecipeRow(models.Model):
    """How a setup's tension results are constructed; Pa and m/m."""

    setup = models.OneToOneField("wire.Setup", models.CASCADE, related_name="tension_recipe")
    fit_lower_pa = models.FloatField(default=60e6)
    fit_upper_pa = models.FloatField(default=180e6)
    offset = models.FloatField(default=0.002)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(
                    fit_lower_pa__gt=0, fit_upper_pa__gt=models.F("fit_lower_pa"), offset__gt=0
                ),
                name="tension_recipe_sane",
            )
        ]


class TensionResultRow(models.Model):
    """The stored result of one run and what it was computed from."""

    run = models.OneToOneField(Run, models.CASCADE, related_name="tension")
    values = models.JSONField()
    recipe = models.JSONField()
    computed_at = models.DateTimeField(auto_now=True)
