"""Driver packages that the house approved."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone


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
        db_table = "standards_package"  # of the app that it was made in
        ordering = ("name", "-id")
        constraints = (
            models.UniqueConstraint(fields=["digest"], condition=models.Q(withdrawn_at=None), name="package_held_once"),
        )
