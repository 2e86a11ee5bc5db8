from typing import Any

from django.conf import settings
from django.db import models

from yoke_server.derive.curves.page import CurvesSpec
from yoke_server.derive.kinds import RecipeSpec
from yoke_server.kinds.spec import SpecField
from yoke_server.record.models import Run
from yoke_server.setups.models import Project, Setup


class Recipe(models.Model):
    """What is to be derived of a setup's runs: a kind and its parameters; counts its changes."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="recipes")
    parameters: Any = SpecField(RecipeSpec)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["id"]

    @property
    def kind(self) -> str:
        return str(self.parameters.kind)


class CurvePage(models.Model):
    """Runs laid over each other, kept with a project under a name."""

    project = models.ForeignKey(Project, models.CASCADE, related_name="curve_pages")
    name = models.CharField(max_length=60)
    page: Any = SpecField(CurvesSpec)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="curves_once")]


class Derivation(models.Model):
    """What was computed of a run by a recipe, and from what: stale where ``fingerprint`` differs.

    Written by the worker; an older one stays until the next is there. ``problem`` says why
    there are no results of these inputs; ``details``, results and arrays are the last that were.
    """

    run = models.ForeignKey(Run, models.CASCADE, related_name="derivations")
    recipe = models.ForeignKey(Recipe, models.CASCADE, related_name="derivations")
    recipe_version = models.PositiveIntegerField()
    engine = models.PositiveIntegerField()
    inputs = models.JSONField()  # what the fingerprint is over, in the open
    fingerprint = models.CharField(max_length=64)
    problem = models.JSONField(null=True)
    details = models.JSONField(null=True)
    notes = models.JSONField(default=list)
    lacks = models.JSONField(default=list)  # what is not in the uncertainties of its results
    computed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "recipe"], name="derivation_once")]


class Result(models.Model):
    """One value of a derivation, in SI; null where there is none."""

    derivation = models.ForeignKey(Derivation, models.CASCADE, related_name="results")
    position = models.PositiveSmallIntegerField()
    symbol = models.CharField(max_length=20)
    name = models.CharField(max_length=60)
    value = models.FloatField(null=True)
    unit = models.CharField(max_length=12)  # in which it is shown
    decimals = models.PositiveSmallIntegerField()
    method = models.CharField(max_length=120)
    clause = models.CharField(max_length=60, blank=True)
    note = models.CharField(max_length=200, blank=True)
    # U = k u (SI) and k; null where it is not known. [{"name", "standard"}] that it comes of.
    expanded = models.FloatField(null=True)
    factor = models.FloatField(null=True)
    budget = models.JSONField(default=list)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["derivation", "position"], name="result_once")
        ]


class ResultArray(models.Model):
    """A column of figures of a derivation: float32, in SI."""

    derivation = models.ForeignKey(Derivation, models.CASCADE, related_name="arrays")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=30)
    unit = models.CharField(max_length=12)
    data = models.BinaryField()

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["derivation", "position"], name="array_once")
        ]
