"""Projects as they were looked through, and the productions all of whose projects are looked through each night."""

import msgspec
from django.conf import settings
from django.db import models
from django.db.models import Q

from normant.seats.models import Seat
from normant_core.orders.projects import SeenProject


class Project(models.Model):
    """A project as it was seen last: at a seat, or as somebody brought it (then nobody looked for its media).

    `seen` is core's SeenProject. Once `sent_at` its list stands on the seat's own page.
    """

    seat = models.ForeignKey(Seat, null=True, on_delete=models.CASCADE, related_name="projects")
    app = models.CharField(max_length=120)
    file = models.CharField(max_length=400)
    production = models.CharField(max_length=120, blank=True, default="")
    seen = models.JSONField()
    seen_at = models.DateTimeField()
    brought_by = models.CharField(max_length=150, blank=True, default="")
    sent_by = models.CharField(max_length=150, blank=True, default="")
    sent_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-seen_at", "-id")
        constraints = (
            models.UniqueConstraint(fields=["seat", "app", "file"], name="project_once_a_seat"),
            models.UniqueConstraint(fields=["app", "file"], condition=Q(seat=None), name="project_once_brought"),
        )

    @property
    def core_seen(self) -> SeenProject:
        """As core has it."""
        return msgspec.convert(self.seen, SeenProject)


class BroughtFile(models.Model):
    """The bytes of a project that somebody brought, packed, until a worker has read it."""

    project = models.OneToOneField(Project, on_delete=models.CASCADE, primary_key=True, related_name="brought")
    body = models.BinaryField()
    brought_at = models.DateTimeField()


class NightlyLook(models.Model):
    """A production all of whose projects are looked through each night; its media belong in `storage`, where named."""

    production = models.CharField(max_length=120, unique=True)
    storage = models.CharField(max_length=400, blank=True, default="")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    asked_on = models.DateField(null=True)  # the day on which its seats were asked last

    class Meta:
        ordering = ("production",)
