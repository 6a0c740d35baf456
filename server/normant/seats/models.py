"""Seats, what they last said, and every reading as an interval."""

from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import ArrayField, DateTimeRangeField, RangeBoundary, RangeOperators
from django.db import models
from django.db.models import F, Func, Q

from .querysets import ReadingQuerySet, SeatQuerySet


class Seat(models.Model):
    """One editing workstation, as the register knows it, with what its last evaluation gave."""

    name = models.CharField(max_length=64, unique=True)
    role = models.CharField(max_length=40, blank=True, default="")
    room = models.CharField(max_length=80, blank=True, default="")
    production = models.CharField(max_length=80, blank=True, default="")
    hardware_class = models.CharField(max_length=80, blank=True, default="")
    tags = ArrayField(models.CharField(max_length=80), default=list, blank=True)
    position = models.PositiveIntegerField(default=0)
    retired_at = models.DateTimeField(null=True)
    levels = models.JSONField(default=list)
    off_norm = models.PositiveIntegerField(default=0)

    objects = SeatQuerySet.as_manager()

    class Meta:
        ordering = ("name",)


class Room(models.Model):
    """Where a room stands on the floor; a room that nobody arranged has no row, and comes last by name."""

    name = models.CharField(max_length=80, unique=True)
    position = models.PositiveIntegerField()


class Presence(models.Model):
    """A seat's agent: its token, and the moments that every survey moves. Kept narrow: it is written all day."""

    seat = models.OneToOneField(Seat, on_delete=models.CASCADE, primary_key=True)
    token_digest = models.CharField(max_length=64, unique=True, null=True)  # none: its surveys are brought by hand
    enrolled_at = models.DateTimeField(auto_now_add=True)
    survey_digest = models.BinaryField(max_length=32, null=True)
    taken_at = models.DateTimeField(null=True)
    seen_at = models.DateTimeField(null=True)
    idle_seconds = models.PositiveIntegerField(null=True)
    # The code that its token came with, until that token is first used: then the code is spent.
    offer = models.ForeignKey("Enrolment", null=True, on_delete=models.SET_NULL, related_name="+")
    unjudged_since = models.DateTimeField(null=True)  # the first survey that was taken in and not judged yet

    class Meta:
        indexes = (
            models.Index(
                fields=["unjudged_since"], condition=Q(unjudged_since__isnull=False), name="presence_unjudged"
            ),
        )


class Enrolment(models.Model):
    """A one-time code that lets an agent speak for a seat."""

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE)
    code_digest = models.CharField(max_length=64, unique=True)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)
    spent_at = models.DateTimeField(null=True)  # its token was used, another code was made, or the seat was let go


class Survey(models.Model):
    """A survey that told something new; `latest` marks the newest of each seat."""

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE)
    taken_at = models.DateTimeField()
    received_at = models.DateTimeField(auto_now_add=True)
    body = models.BinaryField()
    latest = models.BooleanField(default=True)

    class Meta:
        indexes = (models.Index(fields=["seat", "-taken_at"]),)
        constraints = (models.UniqueConstraint(fields=["seat"], condition=Q(latest=True), name="survey_one_latest"),)


class Reading(models.Model):
    """One value of one setting from `since` until `until` (null: still); `app` is empty for the machine's own."""

    CAUSES = ("first seen", "at the seat", "ours", "version", "by hand")

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE)
    setting = models.CharField(max_length=80)
    app = models.CharField(max_length=64, blank=True, default="")
    value = models.JSONField(null=True)
    native = models.JSONField(null=True)
    since = models.DateTimeField()
    until = models.DateTimeField(null=True)
    cause = models.CharField(max_length=20, choices=[(c, c) for c in CAUSES])
    entered_by = models.CharField(max_length=150, blank=True, default="")

    objects = ReadingQuerySet.as_manager()

    class Meta:
        indexes = (models.Index(fields=["setting", "app", "since"]),)
        constraints = (
            models.UniqueConstraint(
                fields=["seat", "setting", "app"], condition=Q(until=None), name="reading_one_open"
            ),
            models.CheckConstraint(condition=Q(until=None) | Q(until__gt=F("since")), name="reading_forward"),
            ExclusionConstraint(
                name="reading_no_overlap",
                expressions=[
                    ("seat", RangeOperators.EQUAL),
                    ("setting", RangeOperators.EQUAL),
                    ("app", RangeOperators.EQUAL),
                    (
                        Func(
                            F("since"),
                            F("until"),
                            RangeBoundary(),
                            function="TSTZRANGE",
                            output_field=DateTimeRangeField(),
                        ),
                        RangeOperators.OVERLAPS,
                    ),
                ],
            ),
        )
