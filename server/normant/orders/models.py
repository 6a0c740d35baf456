"""What a seat is told to do, signed, and what it answered."""

import uuid

from django.db import models
from django.db.models import Q

from normant.seats.models import Seat

from .querysets import OrderQuerySet


class Order(models.Model):
    """One signed instruction, and the receipt for it. `leg` is null for an order outside any rollout."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    seat = models.ForeignKey(Seat, on_delete=models.CASCADE, related_name="orders")
    leg = models.ForeignKey("rollouts.Leg", null=True, on_delete=models.CASCADE, related_name="orders")
    rehearsal = models.ForeignKey("rollouts.Rehearsal", null=True, on_delete=models.CASCADE, related_name="orders")
    run = models.ForeignKey("trials.Run", null=True, on_delete=models.CASCADE, related_name="orders")
    clearing = models.ForeignKey("clearings.SeatClearing", null=True, on_delete=models.CASCADE, related_name="orders")
    kind = models.CharField(max_length=30)
    settings = models.JSONField(default=list)
    body = models.BinaryField()
    signature = models.BinaryField(null=True)  # a worker gives it
    refused = models.CharField(max_length=300, blank=True, default="")  # why a worker did not
    place = models.PositiveIntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)
    message = models.CharField(max_length=500, blank=True, default="")  # where the seat stands with it, or waits
    receipt = models.JSONField(null=True)
    received_at = models.DateTimeField(null=True)

    objects = OrderQuerySet.as_manager()

    class Meta:
        db_table = "rollouts_order"  # of the app that it was made in
        ordering = ("created_at", "place")
        indexes = (
            models.Index(fields=["seat"], condition=Q(received_at=None, withdrawn_at=None), name="order_waiting"),
        )


class SweepFault(models.Model):
    """Why a rollout, a trial or a clean-up could not be gone on with when its turn came last."""

    owner = models.CharField(max_length=20)
    number = models.BigIntegerField()
    message = models.CharField(max_length=300)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("since",)
        constraints = (models.UniqueConstraint(fields=["owner", "number"], name="sweep_fault_once"),)
