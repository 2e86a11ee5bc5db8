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


class Derivation(models.Model):
    """What was computed of a run, by kind, and from what: stale where ``digest`` differs.

    Written by the worker; an older one stays until the next is there. ``problem`` says why
    there are no results of these inputs; ``values`` and ``curve`` are the last ones that were.
    """

    run = models.ForeignKey(Run, models.CASCADE, related_name="derivations")
    kind = models.CharField(max_length=20)
    digest = models.CharField(max_length=64)
    problem = models.JSONField(null=True)
    values = models.JSONField(null=True)
    # float32: all strains, then all stresses, thinned to what any plot can show
    curve = models.BinaryField(default=b"")
    computed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "kind"], name="derivation_once")]
