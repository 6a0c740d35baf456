"""Trials: what is asked, on which seats, every run, and the clips that jobs decode."""

import msgspec
from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.seats.models import Seat
from normant_core.measure.question import Question
from normant_core.measure.trial import TrialRun

from .querysets import RunQuerySet, TrialSeatQuerySet


class Clip(models.Model):
    """A reference clip, held by what it is; `codec` is what it was found to be, as surveys name codecs."""

    name = models.CharField(max_length=80, unique=True)
    digest = models.CharField(max_length=64, unique=True)  # SHA-256
    size = models.PositiveIntegerField()
    codec = models.CharField(max_length=40)
    width = models.PositiveIntegerField(null=True)  # of a frame, where whoever kept it said so
    height = models.PositiveIntegerField(null=True)
    body = models.BinaryField()
    kept_by = models.CharField(max_length=150)
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)


class Trial(models.Model):
    """One question that runs are to answer; `question` is core's, `shown` what its runs show so far."""

    class State(models.TextChoices):
        """How far it is."""

        RUNNING = "running"
        HALTED = "halted"
        ENDED = "ended"

    title = models.CharField(max_length=200)
    question = models.JSONField()
    seen = models.CharField(max_length=64)  # what was looked at when it was started: the same twice is one trial
    clip = models.ForeignKey(Clip, null=True, on_delete=models.PROTECT, related_name="trials")
    volume = models.CharField(max_length=120, blank=True, default="")
    because = models.CharField(max_length=300, blank=True, default="")  # why somebody asks
    begins = models.DateTimeField(null=True)  # not before
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.RUNNING)
    reason = models.CharField(max_length=300, blank=True, default="")  # why it was halted
    shown = models.JSONField(null=True)
    holds_for = models.JSONField(default=dict)  # classes, versions and drivers of the seats that it was measured on
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
        constraints = (
            models.CheckConstraint(
                condition=Q(state="running", ended_at=None) | Q(state__in=["halted", "ended"], ended_at__isnull=False),
                name="trial_ended_when_it_has",
            ),
            models.UniqueConstraint(fields=["seen"], condition=Q(ended_at=None), name="trial_one_of_a_kind_at_work"),
        )

    @property
    def core_question(self) -> Question:
        """Its question, as core has it."""
        return msgspec.convert(self.question, Question)


class TrialSeat(models.Model):
    """A trial on one seat."""

    class State(models.TextChoices):
        """Whether it waits, measures, or has ended, and how."""

        WAITING = "waiting"
        AT_WORK = "at work"
        DONE = "done"
        STOPPED = "stopped"
        HALTED = "halted"

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="seats")
    seat = models.ForeignKey(Seat, on_delete=models.PROTECT, related_name="trials")
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.WAITING)
    message = models.CharField(max_length=500, blank=True, default="")
    begun_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    objects = TrialSeatQuerySet.as_manager()

    class Meta:
        ordering = ("seat__name",)
        constraints = (
            models.UniqueConstraint(fields=["trial", "seat"], name="trial_one_per_seat"),
            models.UniqueConstraint(
                fields=["seat"],
                condition=Q(begun_at__isnull=False, ended_at=None),
                name="trial_one_at_work_on_a_seat",
            ),
            models.CheckConstraint(
                condition=Q(state__in=["waiting", "at work"], ended_at=None)
                | Q(state__in=["done", "stopped", "halted"], ended_at__isnull=False),
                name="trial_seat_ended_when_it_has",
            ),
        )


class Run(models.Model):
    """One run of a block; `figure` counts, the `thrown` ones before it do not; `samples` are core's columns."""

    of = models.ForeignKey(TrialSeat, on_delete=models.CASCADE, related_name="runs")
    block = models.PositiveSmallIntegerField()
    place = models.PositiveSmallIntegerField()
    condition = models.CharField(max_length=200)
    figure = models.FloatField(null=True)
    thrown = models.JSONField(default=list)
    harmful = models.BooleanField(default=False)
    beside = models.FloatField(null=True, blank=True)  # the figure of another application's job after it
    taken_by = models.CharField(max_length=150, blank=True, default="")  # who makes it by hand, and
    takes = models.JSONField(default=list)  # what they noted so far
    samples = models.JSONField(null=True)
    idle = models.JSONField(default=list)  # GPUs that were to work and did not: core's Proof of each
    ended_at = models.DateTimeField(null=True)

    objects = RunQuerySet.as_manager()

    class Meta:
        ordering = ("of", "block", "place")
        constraints = (models.UniqueConstraint(fields=["of", "block", "place"], name="run_one_of_a_place"),)

    def core_run(self, seat: str) -> TrialRun:
        """As core has it; only of a run that has its figure."""
        assert self.figure is not None
        return TrialRun(seat, self.block, self.condition, self.figure, self.harmful, self.beside or 0)
