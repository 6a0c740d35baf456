"""How full the volumes of the house were, day by day, and how they go on."""

import datetime as dt

from django.db import models
from django.db.models import Case, CharField, Count, F, Value, When, Window
from django.db.models.functions import Cast, Concat, Greatest, RowNumber
from django.utils import timezone

from normant.seats.models import Seat
from normant_core.care.forecast import Forecast


class StoreDay(models.Model):
    """The size of a store, or of all that is used of a volume (`store` empty), from a day on: until the next row.

    A row is there only where the size was another one than before.
    """

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE)
    volume = models.CharField(max_length=120)
    store = models.CharField(max_length=200, blank=True, default="")
    day = models.DateField()
    size = models.BigIntegerField()
    items = models.BigIntegerField(null=True)
    unused = models.BigIntegerField(null=True)

    class Meta:
        ordering = ("day",)
        indexes = (models.Index(fields=["day"]),)
        constraints = (models.UniqueConstraint(fields=["seat", "volume", "store", "day"], name="store_day_once"),)


class VolumeQuerySet(models.QuerySet["VolumeNow"]):
    """Volumes as a house looks at them."""

    def soonest(self) -> "VolumeQuerySet":
        """Return the volumes of active seats: full ones, then the soonest full, then those with the least share free.

        A network volume is listed once, for the first of its `seats`: it is the same one that all of them mount.
        """
        share = F("free") * 1.0 / Greatest(F("capacity"), 1)
        shared = Concat("mount", Value(" "), Cast("capacity", CharField()))
        which = Case(When(kind="network", then=shared), default=Cast("pk", CharField()), output_field=CharField())
        there = self.filter(seat__retired_at=None).annotate(
            turn=Window(RowNumber(), partition_by=[which], order_by="seat__name"),
            seats=Window(Count("pk"), partition_by=[which]),
        )
        return there.filter(turn=1).order_by(
            Case(When(free=0, then=0), default=1), F("full_on").asc(nulls_last=True), share, "seat__name", "volume"
        )

    def counts(self, soon: dt.datetime) -> dict[str, int]:
        """Return how many volumes are `full`, are `filling` up before `soon`, and how many `seats` have volumes."""
        listed = self.soonest()
        return {
            "full": listed.filter(free=0).count(),
            "filling": listed.filter(full_on__lte=soon, free__gt=0).count(),
            "seats": self.filter(seat__retired_at=None).values("seat").distinct().count(),
        }


class VolumeNow(models.Model):
    """A volume as the newest survey has it, and when it fills: `stores` are core's Store of each on it, by its name."""

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE, related_name="volumes_now")
    volume = models.CharField(max_length=120)
    mount = models.CharField(max_length=4096)
    kind = models.CharField(max_length=400, blank=True, default="")
    system = models.BooleanField(null=True)
    capacity = models.BigIntegerField()
    free = models.BigIntegerField()
    stores = models.JSONField(default=dict)
    at = models.DateTimeField()  # when it was like that
    per_day = models.FloatField(null=True)
    full_on = models.DateTimeField(null=True)
    first = models.DateTimeField(null=True)
    last = models.DateTimeField(null=True)

    objects = VolumeQuerySet.as_manager()

    @property
    def core_forecast(self) -> Forecast:
        """As core has it, by the house's own clock; Sen's interval is not kept."""
        full_on, first, last = (
            moment and timezone.localtime(moment) for moment in (self.full_on, self.first, self.last)
        )
        return Forecast(self.per_day, None, None, full_on, (first, last) if full_on else None)

    class Meta:
        ordering = ("full_on", "seat__name", "volume")
        indexes = (models.Index(fields=["full_on"]),)
        constraints = (models.UniqueConstraint(fields=["seat", "volume"], name="volume_once"),)


class Kept(models.Model):
    """Up to which survey the figures of a seat are kept, and when it had been heard last (by the server's clock)."""

    seat = models.OneToOneField(Seat, on_delete=models.CASCADE, primary_key=True, related_name="figures_kept")
    upto = models.DateTimeField(null=True)
    heard_at = models.DateTimeField(null=True)
