"""Editions of the house standard, and dialects."""

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


class Dialect(models.Model):
    """How one application keeps its preferences, as text."""

    app = models.CharField(max_length=64, unique=True)
    text = models.TextField()
    number = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField(auto_now=True)


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
