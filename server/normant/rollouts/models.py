"""Rollouts, their legs (one for each seat), and the orders that a leg sends."""

import uuid

import msgspec
from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.findings.models import Finding
from normant.seats.models import Seat
from normant_core.schedule import Terms

from .querysets import ErrandQuerySet, OrderQuerySet

STEPS = ("waiting", "checking", "saving", "applying", "restart", "reading_back", "settled")


class Rollout(models.Model):
    """A planned set of corrections; `kind` put_back undoes the rollout that it is `of`."""

    KINDS = ("correct", "put_back")
    STATES = ("proposed", "running", "halted", "finished")

    title = models.CharField(max_length=200)
    kind = models.CharField(max_length=10, choices=[(k, k) for k in KINDS], default="correct")
    of = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="put_backs")
    state = models.CharField(max_length=10, choices=[(s, s) for s in STATES], default="running")
    seen = models.CharField(max_length=64, blank=True, default="")  # the digest of the plan that was looked at
    terms = models.JSONField(default=dict)  # how careful it is: normant_core.schedule.Terms
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
    def careful(self) -> Terms:
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


class KeptPlan(models.Model):
    """A plan that somebody kept by name: its readings as [seat, setting, application], and its terms.

    What of it is off norm is looked up when it is opened: findings close and open meanwhile.
    """

    name = models.CharField(max_length=200, unique=True)
    places = models.JSONField()
    terms = models.JSONField(default=dict)
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    kept_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("name",)


class Calendar(models.Model):
    """When a room is booked, as its calendar says (iCalendar); `name` is the file that it came in.

    With an `address` it is fetched again and again; `fault` says why the last time it was not, and what was fetched
    before counts on. `bookings` are its spans as pairs of moments, until `unfolded_until`, with the days of
    `unfolded_zone`; null: nobody unfolded it yet.
    """

    room = models.CharField(max_length=80, unique=True)
    name = models.CharField(max_length=200)
    text = models.TextField()
    address = models.URLField(max_length=500, blank=True, default="")
    fault = models.CharField(max_length=300, blank=True, default="")
    bookings = models.JSONField(default=list)
    unfolded_until = models.DateTimeField(null=True)
    unfolded_zone = models.CharField(max_length=80, blank=True, default="")
    kept_at = models.DateTimeField(auto_now=True)
    kept_by = models.CharField(max_length=150)

    class Meta:
        ordering = ("room",)


class Leg(models.Model):
    """A rollout on one seat. `step` is how far it came; `state` whether it waits, moves or has ended, and how."""

    STATES = ("waiting", "moving", "settled", "stopped", "halted")

    rollout = models.ForeignKey(Rollout, on_delete=models.CASCADE, related_name="legs")
    seat = models.ForeignKey(Seat, on_delete=models.PROTECT, related_name="legs")
    plan = models.JSONField()
    wave = models.PositiveSmallIntegerField(default=1)  # 0: it goes ahead as a canary
    not_before = models.DateTimeField(null=True)
    put_off = models.PositiveSmallIntegerField(default=0)  # how often somebody at the seat put it off
    objection = models.CharField(max_length=500, blank=True, default="")  # it waits until a supervisor decides
    asks_waiver = models.BooleanField(default=False)
    measured = models.JSONField(null=True)  # a canary's runs before and after, and what they show
    left_out = models.BooleanField(default=False)  # for good: a rollout that is resumed goes on without it
    state = models.CharField(max_length=10, choices=[(s, s) for s in STATES], default="waiting")
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


class Errand(models.Model):
    """What a person does at a seat where no order can: `told` is core's errand, with its steps.

    It is held while its rollout waits for approval; signed, where somebody says that it is done and the seat's next
    survey has yet to prove it.
    """

    STATES = ("held", "open", "signed", "done", "dropped")

    seat = models.ForeignKey(Seat, on_delete=models.PROTECT, related_name="errands")
    rollout = models.ForeignKey(Rollout, null=True, on_delete=models.SET_NULL, related_name="errands")
    finding = models.ForeignKey(Finding, null=True, on_delete=models.SET_NULL, related_name="errands")
    told = models.JSONField()
    note = models.CharField(max_length=500, blank=True, default="")  # from whoever gave it
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=10, choices=[(s, s) for s in STATES], default="open")
    message = models.CharField(max_length=300, blank=True, default="")  # what came of it
    signed_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    signed_at = models.DateTimeField(null=True)
    words = models.CharField(max_length=500, blank=True, default="")  # from whoever signed it off
    ended_at = models.DateTimeField(null=True)

    objects = ErrandQuerySet.as_manager()

    class Meta:
        ordering = ("id",)
        constraints = (
            models.UniqueConstraint(
                fields=["finding"], condition=Q(ended_at=None), name="errand_one_at_a_time_for_a_finding"
            ),
            models.CheckConstraint(
                condition=Q(state__in=["held", "open", "signed"], ended_at=None)
                | Q(state__in=["done", "dropped"], ended_at__isnull=False),
                name="errand_ended_when_it_has",
            ),
        )


class Rehearsal(models.Model):
    """A plan that was tried on its seats without changing anything; `digest` is the plan's."""

    digest = models.CharField(max_length=64)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    made_at = models.DateTimeField(auto_now_add=True)


class Order(models.Model):
    """One signed instruction, and the receipt for it. `leg` is null for an order outside any rollout."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    seat = models.ForeignKey(Seat, on_delete=models.CASCADE, related_name="orders")
    leg = models.ForeignKey(Leg, null=True, on_delete=models.CASCADE, related_name="orders")
    rehearsal = models.ForeignKey(Rehearsal, null=True, on_delete=models.CASCADE, related_name="orders")
    kind = models.CharField(max_length=30)
    settings = models.JSONField(default=list)
    body = models.BinaryField()
    signature = models.BinaryField(null=True)  # a worker gives it
    refused = models.CharField(max_length=300, blank=True, default="")  # why a worker did not
    place = models.PositiveIntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)
    receipt = models.JSONField(null=True)
    received_at = models.DateTimeField(null=True)

    objects = OrderQuerySet.as_manager()

    class Meta:
        ordering = ("created_at", "place")
        indexes = (
            models.Index(fields=["seat"], condition=Q(received_at=None, withdrawn_at=None), name="order_waiting"),
        )
