"""Acts that one person proposed and another has to approve."""

from django.conf import settings
from django.db import models
from django.db.models import Q


class Proposal(models.Model):
    """One act that waits, or was decided: `lines` are what people read of it, `body` what it is carried out with.

    `needs_administrator`: one of the two must be one.
    """

    kind = models.CharField(max_length=30)
    subject = models.CharField(max_length=160)
    lines = models.JSONField()
    body = models.JSONField()
    seen = models.CharField(max_length=64)  # the digest of all of these
    needs_administrator = models.BooleanField(default=False)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    decided_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    decided_at = models.DateTimeField(null=True)
    approved = models.BooleanField(null=True)
    reason = models.CharField(max_length=300, blank=True, default="")

    class Meta:
        ordering = ("-id",)
        constraints = (
            models.UniqueConstraint(fields=["seen"], condition=Q(decided_at=None), name="proposal_waits_once"),
        )
