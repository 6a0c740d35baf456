"""What the house has delivered, and which productions have ended: by these alone renders and backups may go."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.orders.models import Order
from normant.seats.models import Seat

from .querysets import DeliveryQuerySet


class Delivery(models.Model):
    """A finished export of a project: proposed by an agent or a person, and delivered once somebody has signed it.

    It releases the renders and backups that `project_app` made of its project in its production. Where one of these is
    missing, it releases nothing until somebody assigns it and signs the delivery.
    """

    project = models.CharField(max_length=120)
    production = models.CharField(max_length=120, blank=True, default="")
    file = models.CharField(max_length=400)
    seat = models.ForeignKey(Seat, null=True, on_delete=models.SET_NULL, related_name="deliveries")
    app = models.CharField(max_length=64, blank=True, default="")  # whose export it is
    project_app = models.CharField(max_length=64, blank=True, default="")  # whose project it is
    digest = models.CharField(max_length=64)  # SHA-256 of the file
    size = models.BigIntegerField()
    finished_at = models.DateTimeField()
    proposed_by = models.CharField(max_length=150)
    proposed_at = models.DateTimeField(auto_now_add=True)
    inspection = models.ForeignKey(Order, null=True, on_delete=models.SET_NULL, related_name="+")
    signed_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    signed_at = models.DateTimeField(null=True)
    withdrawn_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True)
    reason = models.CharField(max_length=300, blank=True, default="")  # why it was withdrawn

    objects = DeliveryQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)
        indexes = (models.Index(fields=["project"]),)
        constraints = (
            models.UniqueConstraint(
                fields=["production", "project", "project_app", "digest"],
                condition=Q(withdrawn_at=None),
                name="delivery_once_per_project_and_file",
            ),
            models.CheckConstraint(
                condition=Q(signed_at=None, signed_by=None) | Q(signed_at__isnull=False, signed_by__isnull=False),
                name="delivery_signed_by_somebody",
            ),
        )

    @property
    def state(self) -> str:
        """`proposed`, `delivered` or `withdrawn`."""
        return "withdrawn" if self.withdrawn_at else "delivered" if self.signed_at else "proposed"


class ProjectOnSeat(models.Model):
    """Bytes of renders or backups of a project on a seat, as its newest survey tells. It counts them once a day."""

    seat = models.ForeignKey(Seat, on_delete=models.CASCADE, related_name="+")
    app = models.CharField(max_length=64)
    kind = models.CharField(max_length=20)
    production = models.CharField(max_length=120, blank=True, default="")
    project = models.CharField(max_length=120)
    size = models.BigIntegerField()

    class Meta:
        ordering = ("seat__name", "kind", "app")
        indexes = (models.Index(fields=["project"]),)


class EndedProduction(models.Model):
    """A production that a person said has ended; `key` is its name as folders may write it."""

    name = models.CharField(max_length=120, unique=True)
    key = models.CharField(max_length=120, unique=True)
    ended_at = models.DateTimeField()
    ended_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("name",)
