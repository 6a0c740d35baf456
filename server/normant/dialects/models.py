"""How applications keep their preferences."""

from django.db import models


class Dialect(models.Model):
    """How one application keeps its preferences, as text."""

    app = models.CharField(max_length=64, unique=True)
    text = models.TextField()
    number = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField(auto_now=True)
    signature = models.BinaryField(null=True)  # of this text, by a worker: without one no agent is shown it
    refused = models.CharField(max_length=300, blank=True, default="")  # why a worker did not sign it

    class Meta:
        db_table = "standards_dialect"  # of the app that it was made in


class DialectVersion(models.Model):
    """Every text that a dialect ever had."""

    app = models.CharField(max_length=64)
    number = models.PositiveIntegerField()
    text = models.TextField()
    kept_at = models.DateTimeField(auto_now_add=True)
    kept_by = models.CharField(max_length=150)

    class Meta:
        db_table = "standards_dialectversion"
        ordering = ("-number",)
        constraints = (models.UniqueConstraint(fields=["app", "number"], name="dialect_version_once"),)
