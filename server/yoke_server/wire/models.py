"""Checks of the wiring, and tests of the sign."""

from django.db import models

from yoke_server.setups.models import Measured


class WiringCheck(Measured):
    """What a check of the wiring found, in words and figures (wire/check/).

    ``of`` is a fingerprint of what was checked: another wiring makes the check an old one.
    """

    passed = models.BooleanField()
    found = models.JSONField()
    of = models.CharField(max_length=64)


class SignTest(Measured):
    """Which way a channel went when somebody loaded its part, and which way they did it.

    ``of`` is as in `WiringCheck`. ``moved`` is in SI of the quantity.
    """

    positive = models.BooleanField()  # what was done is what the quantity counts positive
    moved = models.FloatField()
    of = models.CharField(max_length=64)

    @property
    def passed(self) -> bool:
        return (self.moved > 0) == self.positive
