"""Plans of clearing: which stores of which seats are looked through, what would go, and what went."""

import msgspec
from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.seats.models import Seat
from normant_core.orders.clearing import Cleared, PlannedStore


class Clearing(models.Model):
    """One plan: seats tell what would go, a person signs it, and it is carried out in waves."""

    class State(models.TextChoices):
        """How far it is."""

        LOOKING = "looking"
        PLANNED = "planned"
        RUNNING = "running"
        HALTED = "halted"
        ENDED = "ended"
        DROPPED = "dropped"

    title = models.CharField(max_length=200)
    wanted = models.JSONField()  # what was asked for: services.begin_clearing.Wanted
    ended = models.JSONField(default=list)  # productions that had ended when it was made: core's Ended
    delivered = models.JSONField(default=list)  # projects that were delivered then
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.LOOKING)
    reason = models.CharField(max_length=300, blank=True, default="")  # why it was halted
    overlooked = models.JSONField(default=dict)  # what somebody had seen who let it go on
    begins = models.DateTimeField(null=True)  # not before
    closes = models.DateTimeField(null=True)  # a seat that has not had its turn by then has none
    is_strict = models.BooleanField(default=False)  # the first thing that is not as listed halts it
    created_by = models.ForeignKey(  # null: standing care
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    created_at = models.DateTimeField(auto_now_add=True)
    signed_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    signed_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
        constraints = (
            models.CheckConstraint(
                condition=Q(state__in=["looking", "planned", "dropped"], signed_at=None)
                | Q(state__in=["running", "halted", "ended"], signed_at__isnull=False),
                name="clearing_signed_before_it_runs",
            ),
        )


class SeatClearing(models.Model):
    """A plan on one seat."""

    class State(models.TextChoices):
        """Whether it looks, waits, clears, or has ended, and how."""

        LOOKING = "looking"
        PLANNED = "planned"
        WAITING = "waiting"
        AT_WORK = "at work"
        DONE = "done"
        STOPPED = "stopped"

    clearing = models.ForeignKey(Clearing, on_delete=models.CASCADE, related_name="seats")
    seat = models.ForeignKey(Seat, on_delete=models.PROTECT, related_name="clearings")
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.LOOKING)
    message = models.CharField(max_length=500, blank=True, default="")
    begun_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("seat__name",)
        constraints = (models.UniqueConstraint(fields=["clearing", "seat"], name="clearing_one_per_seat"),)


class StoreClearing(models.Model):
    """A store of a seat in a plan: what would go (core's PlannedStore), and what went (core's Cleared)."""

    of = models.ForeignKey(SeatClearing, on_delete=models.CASCADE, related_name="stores")
    place = models.PositiveSmallIntegerField()
    app = models.CharField(max_length=120, blank=True, default="")
    kind = models.CharField(max_length=20)
    planned = models.JSONField()
    going = models.BigIntegerField(default=0)  # items, and
    going_size = models.BigIntegerField(default=0)  # bytes: what the plan promises
    cleared = models.JSONField(null=True)
    failed = models.CharField(max_length=500, blank=True, default="")  # why nothing went
    is_back = models.BooleanField(default=False)  # everything that was held lies where it lay
    put_back = models.CharField(max_length=500, blank=True, default="")  # what came of putting it back

    class Meta:
        ordering = ("of__seat__name", "place")
        constraints = (models.UniqueConstraint(fields=["of", "place"], name="clearing_store_once"),)

    @property
    def core_planned(self) -> PlannedStore:
        """As core has it."""
        return msgspec.convert(self.planned, PlannedStore, strict=False)

    @property
    def core_cleared(self) -> Cleared | None:
        """As core has it."""
        return msgspec.convert(self.cleared, Cleared, strict=False) if self.cleared else None


class ListPart(models.Model):
    """A part of the list of what would go of a store, as its seat handed it in, packed; kept for a day."""

    store = models.ForeignKey(StoreClearing, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveSmallIntegerField()
    body = models.BinaryField()
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=["store", "number"], name="list_part_once"),)
