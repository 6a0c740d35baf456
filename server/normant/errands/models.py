"""What people have to do at seats."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.findings.models import Finding
from normant.seats.models import Seat

from .querysets import ErrandQuerySet


class Errand(models.Model):
    """What a person does at a seat where no order can: `work` is core's errand, with its steps.

    It is held while its rollout waits for approval; signed, where somebody says that it is done and the seat's next
    survey has yet to prove it.
    """

    class State(models.TextChoices):
        """Whether it waits, is to be done, or has ended, and how."""

        HELD = "held"
        OPEN = "open"
        SIGNED = "signed"
        DONE = "done"
        DROPPED = "dropped"

    seat = models.ForeignKey(Seat, on_delete=models.PROTECT, related_name="errands")
    rollout = models.ForeignKey("rollouts.Rollout", null=True, on_delete=models.SET_NULL, related_name="errands")
    finding = models.ForeignKey(Finding, null=True, on_delete=models.SET_NULL, related_name="errands")
    work = models.JSONField()
    note = models.CharField(max_length=500, blank=True, default="")  # from whoever gave it
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.OPEN)
    message = models.CharField(max_length=300, blank=True, default="")  # what came of it
    signed_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    signed_at = models.DateTimeField(null=True)
    words = models.CharField(max_length=500, blank=True, default="")  # from whoever signed it off
    ended_at = models.DateTimeField(null=True)

    objects = ErrandQuerySet.as_manager()

    class Meta:
        db_table = "rollouts_errand"  # of the app that it was made in
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
