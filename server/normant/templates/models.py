"""Project templates."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone


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
        db_table = "standards_template"  # of the app that it was made in
        ordering = ("app", "name", "-id")
        constraints = (
            models.UniqueConstraint(
                fields=["name"], condition=models.Q(held_until=None), name="template_one_of_a_name"
            ),
        )
