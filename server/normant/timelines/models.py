"""Timelines of productions as core keeps them, and what the house's effects cost."""

import msgspec
from django.db import models

from normant_core.measure.machine.laid import Laid


class Timeline(models.Model):
    """One timeline: `body` is core's `Laid` in JSON, `media` the codec, width and height of its sources by target."""

    name = models.CharField(max_length=120, unique=True)
    digest = models.CharField(max_length=64)  # SHA-256 of the file that was brought
    body = models.BinaryField()
    media = models.JSONField(default=dict)
    rate = models.CharField(max_length=60)  # frames per second, exact
    clips = models.PositiveIntegerField()
    seconds = models.FloatField()
    kept_by = models.CharField(max_length=150)
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)

    @property
    def laid(self) -> Laid:
        """As core has it."""
        return msgspec.json.decode(self.body, type=Laid)


class Costs(models.Model):
    """What effects, proxies and renders ahead cost in this house: the newest row counts, the others tell what was."""

    text = models.TextField()
    kept_by = models.CharField(max_length=150)
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)
