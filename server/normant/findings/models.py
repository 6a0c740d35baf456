"""Findings: readings off norm, from when until when."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.utils import timezone

from normant.seats.models import Seat

from .querysets import FindingQuerySet, WaiverQuerySet


class Waiver(models.Model):
    """Findings of one setting that were accepted: on these seats, or (none named) on all seats of these groups.

    It ends at a moment, or with a production, or when somebody ends it before.
    """

    BY = ("date", "production", "person")

    setting = models.CharField(max_length=80)
    app = models.CharField(max_length=64, blank=True, default="")  # empty: whichever application
    seats = ArrayField(models.CharField(max_length=64), default=list, blank=True)
    groups = models.JSONField(default=dict)
    reason = models.CharField(max_length=500)
    made_at = models.DateTimeField(default=timezone.now)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    ends_at = models.DateTimeField(null=True)
    until_production = models.CharField(max_length=80, blank=True, default="")
    ended_at = models.DateTimeField(null=True)
    ended_by = models.CharField(max_length=10, choices=[(b, b) for b in BY], blank=True, default="")

    objects = WaiverQuerySet.as_manager()

    class Meta:
        ordering = ("ended_at", "ends_at", "id")
        constraints = (
            models.CheckConstraint(condition=~Q(reason=""), name="waiver_with_a_reason"),
            models.CheckConstraint(
                condition=Q(ends_at__isnull=False) | ~Q(until_production=""), name="waiver_with_an_end"
            ),
            models.CheckConstraint(condition=Q(ends_at=None) | Q(ends_at__gt=F("made_at")), name="waiver_forward"),
            models.CheckConstraint(
                condition=Q(ended_at=None, ended_by="") | Q(ended_at__isnull=False) & ~Q(ended_by=""),
                name="waiver_ended_by_something",
            ),
        )


class Finding(models.Model):
    """One reading off norm. `opened_by` and `closed_by`: ours, theirs, standard, facts."""

    BY = ("ours", "theirs", "standard", "facts")

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE, related_name="findings")
    setting = models.CharField(max_length=80)
    app = models.CharField(max_length=64, blank=True, default="")
    severity = models.CharField(max_length=10)
    verdict = models.JSONField()
    cause = models.CharField(max_length=16)  # core's `cause_key` of the verdict
    opened_at = models.DateTimeField()
    opened_by = models.CharField(max_length=10, choices=[(b, b) for b in BY])
    closed_at = models.DateTimeField(null=True)
    closed_by = models.CharField(max_length=10, choices=[(b, b) for b in BY], blank=True, default="")
    waiver = models.ForeignKey(Waiver, null=True, on_delete=models.SET_NULL, related_name="findings")
    told_at = models.DateTimeField(null=True)  # when people were told of it at once; only those of severity must are

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
        indexes = (
            models.Index(fields=["opened_at"]),
            models.Index(fields=["closed_at"]),
            # What the Round groups, without a look at the rows, which are wide.
            models.Index(
                fields=["cause", "seat", "id"], name="finding_causes", condition=Q(closed_at=None, waiver=None)
            ),
            models.Index(
                fields=["seat"], name="finding_to_tell", condition=Q(told_at=None, closed_at=None, severity="must")
            ),
        )
