"""Plans of clearing: which stores of which seats are looked through, what would go, and what went."""

import msgspec
from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.orders.models import Order
from normant.seats.models import Seat
from normant_core.orders.clearing import Cleared, PlannedStore

from .figures import Figures, Told, figures_of


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
    is_implausible = models.BooleanField(default=False)  # it tells more bytes than its volume has: not counted in sums
    cleared = models.JSONField(null=True)
    deleted = models.JSONField(null=True)  # what became of it after its day: core's Deleted
    failed = models.CharField(max_length=500, blank=True, default="")  # why nothing went
    is_back = models.BooleanField(default=False)  # everything that was held lies where it lay
    lost = models.CharField(max_length=300, blank=True, default="")  # why the server had it put back
    lost_at = models.DateTimeField(null=True)
    put_back = models.CharField(max_length=500, blank=True, default="")  # what came of putting it back

    class Meta:
        ordering = ("of__seat__name", "place")
        constraints = (models.UniqueConstraint(fields=["of", "place"], name="clearing_store_once"),)

    @property
    def counted_size(self) -> int:
        """Bytes that it promises, as sums count them."""
        return 0 if self.is_implausible else self.going_size

    @property
    def figures(self) -> Figures:
        """Its bytes, as sums count them."""
        cleared, deleted = self.cleared or {}, self.deleted or {}
        size, held_until, is_reported = (cleared.get(name) for name in ("size", "held_until", "is_reported"))
        reported = Told(size, held_until, is_reported, deleted.get("size"), self.is_back)
        return figures_of(self.counted_size, reported)

    @property
    def core_planned(self) -> PlannedStore:
        """As core has it."""
        return msgspec.convert(self.planned, PlannedStore, strict=False)

    @property
    def core_cleared(self) -> Cleared | None:
        """As core has it."""
        return msgspec.convert(self.cleared, Cleared, strict=False) if self.cleared else None


class FileList(models.Model):
    """The list of what would go of a store, as its seat hands it in for an order; kept for a day."""

    class State(models.TextChoices):
        """Whether its parts still arrive, a worker reads them, it can be read, or it was refused."""

        ARRIVING = "arriving"
        READING = "reading"
        WHOLE = "whole"
        REFUSED = "refused"

    store = models.OneToOneField(StoreClearing, on_delete=models.CASCADE, related_name="list")
    order = models.OneToOneField(Order, on_delete=models.CASCADE, related_name="+")
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.ARRIVING)
    message = models.CharField(max_length=500, blank=True, default="")  # why it was refused
    asked_at = models.DateTimeField(auto_now_add=True)


class ListPart(models.Model):
    """A part of a list, packed: lines as the seat handed them in, and once the list is whole as people read them."""

    list = models.ForeignKey(FileList, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveSmallIntegerField()
    body = models.BinaryField()
    lines = models.PositiveIntegerField()

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=["list", "number"], name="list_part_once"),)


class ListPage(models.Model):
    """The first files of a list in one order, packed: so many that a page of any list costs the same."""

    list = models.ForeignKey(FileList, on_delete=models.CASCADE, related_name="pages")
    sort = models.CharField(max_length=10)
    number = models.PositiveSmallIntegerField()
    body = models.BinaryField()  # a JSON array

    class Meta:
        ordering = ("sort", "number")
        constraints = (models.UniqueConstraint(fields=["list", "sort", "number"], name="list_page_once"),)
