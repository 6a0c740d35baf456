"""Rollouts, their legs (one for each seat), and the orders that a leg sends."""

import msgspec
from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.seats.models import Seat
from normant_core.rollout.schedule import Terms

STEPS = ("waiting", "checking", "saving", "applying", "restart", "reading_back", "settled")


class Rollout(models.Model):
    """A planned set of corrections; `kind` put_back undoes the rollout that it is `of`."""

    class Kind(models.TextChoices):
        """What it is for."""

        CORRECT = "correct"
        PUT_BACK = "put_back"

    class State(models.TextChoices):
        """How far it is."""

        PROPOSED = "proposed"
        RUNNING = "running"
        HALTED = "halted"
        FINISHED = "finished"

    title = models.CharField(max_length=200)
    kind = models.CharField(max_length=10, choices=[(k.value, k.value) for k in Kind], default=Kind.CORRECT)
    of = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="put_backs")
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.RUNNING)
    seen = models.CharField(max_length=64, blank=True, default="")  # the digest of the plan that was looked at
    terms = models.JSONField(default=dict)  # how careful it is: normant_core.rollout.schedule.Terms
    open_wave = models.PositiveSmallIntegerField(default=0)  # a person let waves up to this one begin
    reason = models.CharField(max_length=300, blank=True, default="")  # why it was halted
    resumed_at = models.DateTimeField(null=True)  # what stopped before that was looked at
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    approved_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)

    @property
    def core_terms(self) -> Terms:
        """Its terms, as core has them."""
        return msgspec.convert(self.terms, Terms, strict=False)


class Report(models.Model):
    """What a rollout came to, as it was told when it ended or was put back: the bytes whose digest the ledger holds."""

    rollout = models.ForeignKey(Rollout, on_delete=models.CASCADE, related_name="reports")
    body = models.BinaryField()
    digest = models.CharField(max_length=64)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)


class Leg(models.Model):
    """A rollout on one seat. `step` is how far it came; `state` whether it waits, moves or has ended, and how."""

    class State(models.TextChoices):
        """Whether it waits, moves, or has ended, and how."""

        WAITING = "waiting"
        MOVING = "moving"
        SETTLED = "settled"
        STOPPED = "stopped"
        HALTED = "halted"

    rollout = models.ForeignKey(Rollout, on_delete=models.CASCADE, related_name="legs")
    seat = models.ForeignKey(Seat, on_delete=models.PROTECT, related_name="legs")
    plan = models.JSONField()
    wave = models.PositiveSmallIntegerField(default=1)  # 0: it goes ahead as a canary
    not_before = models.DateTimeField(null=True)
    put_off = models.PositiveSmallIntegerField(default=0)  # how often somebody at the seat put it off
    objection = models.CharField(max_length=500, blank=True, default="")  # it waits until a supervisor decides
    asks_waiver = models.BooleanField(default=False)
    measured = models.JSONField(null=True)  # a canary's runs as it was and changed, and what they show
    left_out = models.BooleanField(default=False)  # for good: a rollout that is resumed goes on without it
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.WAITING)
    step = models.CharField(max_length=20, choices=[(s, s) for s in STEPS], default="waiting")
    message = models.TextField(blank=True, default="")
    begun_at = models.DateTimeField(null=True)
    moved_at = models.DateTimeField(auto_now=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("seat__name",)
        constraints = (
            models.UniqueConstraint(fields=["rollout", "seat"], name="leg_one_per_seat"),
            models.UniqueConstraint(
                fields=["seat"],
                condition=Q(begun_at__isnull=False, ended_at=None),
                name="leg_one_at_work_on_a_seat",
            ),
            models.CheckConstraint(
                condition=Q(state__in=["waiting", "moving"], ended_at=None)
                | Q(state__in=["settled", "stopped", "halted"], ended_at__isnull=False),
                name="leg_ended_when_it_has",
            ),
        )


class Rehearsal(models.Model):
    """A plan that was tried on its seats without changing anything; `digest` is the plan's."""

    digest = models.CharField(max_length=64)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    made_at = models.DateTimeField(auto_now_add=True)
