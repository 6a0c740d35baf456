"""Editions of the house standard, dialects, and project templates."""

from django.conf import settings
from django.db import models


class Edition(models.Model):
    """A published text of the house standard; the newest is in force. Every one is kept."""

    number = models.PositiveIntegerField(unique=True)
    text = models.TextField()
    note = models.CharField(max_length=300, blank=True, default="")
    published_at = models.DateTimeField(auto_now_add=True)
    published_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    # How far the house has followed: seats that were judged by it, of how many; and when that was done.
    judged = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    followed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-number",)


class Draft(models.Model):
    """A text that may become an edition: it is looked at by a second person where the house asks for that.

    `base` is the edition that it began from. `publish_at`: when it is published by itself.
    """

    text = models.TextField()
    base = models.PositiveIntegerField()
    note = models.CharField(max_length=300, blank=True, default="")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="drafts")
    changed_at = models.DateTimeField(auto_now=True)
    approved_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="approved_drafts"
    )
    publish_at = models.DateTimeField(null=True)
    problem = models.CharField(max_length=300, blank=True, default="")  # why it was not published at its time
    ended_at = models.DateTimeField(null=True)  # published or dropped
    edition = models.OneToOneField(Edition, null=True, on_delete=models.PROTECT)

    class Meta:
        ordering = ("-changed_at",)
        constraints = (
            models.CheckConstraint(
                condition=~models.Q(approved_by=models.F("made_by")), name="draft_approved_by_another"
            ),
        )
