"""Turns of standing care: what a sentence of the house standard had cleared by itself, or why it had not."""

from django.conf import settings
from django.db import models

from normant.clearings.models import Clearing


class Turn(models.Model):
    """One turn of a sentence. `meaning` is a digest of what it says: another meaning is another sentence to agree to.

    `problem` is why it did nothing, or why a person has to look; empty where it ran by itself.
    """

    name = models.CharField(max_length=80)
    meaning = models.CharField(max_length=64)
    sentence = models.CharField(max_length=500)
    opens = models.DateTimeField()
    closes = models.DateTimeField()
    clearing = models.OneToOneField(Clearing, null=True, on_delete=models.PROTECT, related_name="turn")
    problem = models.CharField(max_length=300, blank=True, default="")
    decided_at = models.DateTimeField(null=True)  # when it was signed, left to a person, or given up

    class Meta:
        ordering = ("-opens", "-id")
        constraints = (models.UniqueConstraint(fields=["name", "opens"], name="turn_once"),)


class StoppedCare(models.Model):
    """A sentence that somebody stopped: it has no turn until somebody lets it go on."""

    name = models.CharField(max_length=80, unique=True)
    stopped_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    stopped_at = models.DateTimeField(auto_now_add=True)
    why = models.CharField(max_length=300)
