"""Findings: readings off norm, from when until when."""

from django.db import models
from django.db.models import Q

from normant.seats.models import Seat

from .querysets import FindingQuerySet


class Finding(models.Model):
    """One reading off norm. `opened_by` and `closed_by`: ours, theirs, standard, facts."""

    BY = ("ours", "theirs", "standard", "facts")

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE, related_name="findings")
    setting = models.CharField(max_length=80)
    app = models.CharField(max_length=64, blank=True, default="")
    severity = models.CharField(max_length=10)
    verdict = models.JSONField()
    opened_at = models.DateTimeField()
    opened_by = models.CharField(max_length=10, choices=[(b, b) for b in BY])
    closed_at = models.DateTimeField(null=True)
    closed_by = models.CharField(max_length=10, choices=[(b, b) for b in BY], blank=True, default="")

    objects = FindingQuerySet.as_manager()

    class Meta:
        ordering = ("seat__name", "id")
        constraints = (
            models.UniqueConstraint(
                fields=["seat", "setting", "app"], condition=Q(closed_at=None), name="finding_one_open"
            ),
            models.CheckConstraint(
                condition=Q(closed_at=None, closed_by="") | Q(closed_at__isnull=False) & ~Q(closed_by=""),
                name="finding_closed_by_somebody",
            ),
        )
        indexes = (models.Index(fields=["opened_at"]), models.Index(fields=["closed_at"]))
