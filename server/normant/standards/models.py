"""Editions of the house standard, dialects, and project templates."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone


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


class Dialect(models.Model):
    """How one application keeps its preferences, as text."""

    app = models.CharField(max_length=64, unique=True)
    text = models.TextField()
    number = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField(auto_now=True)
    signature = models.BinaryField(null=True)  # of this text, by a worker: without one no agent is shown it
    refused = models.CharField(max_length=300, blank=True, default="")  # why a worker did not sign it


class DialectVersion(models.Model):
    """Every text that a dialect ever had."""

    app = models.CharField(max_length=64)
    number = models.PositiveIntegerField()
    text = models.TextField()
    kept_at = models.DateTimeField(auto_now_add=True)
    kept_by = models.CharField(max_length=150)

    class Meta:
        ordering = ("-number",)
        constraints = (models.UniqueConstraint(fields=["app", "number"], name="dialect_version_once"),)


class Template(models.Model):
    """A file that new projects begin with, as the house wants it; what one replaced is kept.

    `productions`: those that begin with it, none named is all. `held_until`: when it was replaced or taken away.
    """

    name = models.CharField(max_length=80)
    app = models.CharField(max_length=64)
    productions = ArrayField(models.CharField(max_length=80), default=list, blank=True)
    file = models.CharField(max_length=120)
    body = models.BinaryField()
    digest = models.CharField(max_length=64)  # SHA-256
    kept_at = models.DateTimeField(default=timezone.now)
    kept_by = models.CharField(max_length=150)
    held_until = models.DateTimeField(null=True)

    class Meta:
        ordering = ("app", "name", "-id")
        constraints = (
            models.UniqueConstraint(
                fields=["name"], condition=models.Q(held_until=None), name="template_one_of_a_name"
            ),
        )


class Package(models.Model):
    """An approved installer of a GPU driver; its bytes lie in a folder under their hash, for agents to fetch.

    `serves`: models of GPUs. `platform` empty: any. `withdrawn_at`: nothing is planned with it any more.
    """

    name = models.CharField(max_length=200)
    serves = ArrayField(models.CharField(max_length=80))
    platform = models.CharField(max_length=20, blank=True, default="")
    version = models.CharField(max_length=60)
    branch = models.CharField(max_length=60, blank=True, default="")
    digest = models.CharField(max_length=64)  # SHA-256
    size = models.PositiveBigIntegerField()
    kept_at = models.DateTimeField(default=timezone.now)
    kept_by = models.CharField(max_length=150)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("name", "-id")
        constraints = (
            models.UniqueConstraint(fields=["digest"], condition=models.Q(withdrawn_at=None), name="package_held_once"),
        )
