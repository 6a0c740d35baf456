"""The ledger: who did what, append-only, each entry holding the hash of the one before."""

from django.db import models


class Entry(models.Model):
    """One act. A trigger of the database refuses any change to it."""

    at = models.DateTimeField()
    actor = models.CharField(max_length=160)
    action = models.CharField(max_length=60)
    subject = models.CharField(max_length=160)
    detail = models.JSONField(default=dict)
    previous = models.CharField(max_length=64)
    digest = models.CharField(max_length=64, unique=True)

    class Meta:
        ordering = ("-id",)
