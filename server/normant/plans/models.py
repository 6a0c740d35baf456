"""Plans that are kept by name."""

from django.conf import settings
from django.db import models


class KeptPlan(models.Model):
    """A plan that somebody kept by name: its readings as [seat, setting, application], and its terms.

    What of it is off norm is looked up when it is opened: findings close and open meanwhile.
    """

    name = models.CharField(max_length=200, unique=True)
    places = models.JSONField()
    terms = models.JSONField(default=dict)
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    kept_at = models.DateTimeField(auto_now=True)

    class Meta:
        db_table = "rollouts_keptplan"  # of the app that it was made in
        ordering = ("name",)
