"""The ledger: who did what, append-only, each entry holding the hash of the one before."""

from django.db import models


class Entry(models.Model):
    """One act. A trigger of the database refuses any change to it.

    `body` is what was hashed, byte for byte; null in entries of the first version.
    """

    at = models.DateTimeField()
    actor = models.CharField(max_length=160)
    action = models.CharField(max_length=60)
    subject = models.CharField(max_length=160)
    detail = models.JSONField(default=dict)
    previous = models.CharField(max_length=64)
    digest = models.CharField(max_length=64, unique=True)
    body = models.BinaryField(null=True)

    class Meta:
        ordering = ("-id",)


class Head(models.Model):
    """The end of the ledger as it was signed at a moment; the newest few are kept, and one of each day."""

    entries = models.PositiveBigIntegerField()
    digest = models.CharField(max_length=64)
    at = models.DateTimeField()
    signature = models.BinaryField()

    class Meta:
        ordering = ("-id",)


class HouseKey(models.Model):
    """The public half of a key of the house, told by the worker, which alone holds the private one."""

    name = models.CharField(max_length=20, unique=True)
    public = models.BinaryField()
    told_at = models.DateTimeField(auto_now=True)
