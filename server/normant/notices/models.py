"""Notices: what each person wants to be told, what was told, and whether it arrived."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.utils import timezone


class Choice(models.Model):
    """What one person wants to be told: no row, nothing."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="choice")
    mail = models.EmailField(blank=True, default="")  # empty: nothing goes by mail
    mail_asked = models.EmailField(blank=True, default="")  # waits to be confirmed: nothing but a code goes there
    code_digest = models.CharField(max_length=64, blank=True, default="")
    code_sent_at = models.DateTimeField(null=True)
    code_tries = models.PositiveSmallIntegerField(default=0)
    at_once = models.BooleanField(default=False)  # new findings of severity must
    digest = models.BooleanField(default=False)
    digest_hour = models.PositiveSmallIntegerField(default=7)  # house time
    digest_sent_on = models.DateField(null=True)
    rooms = ArrayField(models.CharField(max_length=80), default=list, blank=True)  # empty: every room

    class Meta:
        constraints = (models.CheckConstraint(condition=Q(digest_hour__lt=24), name="choice_hour_of_a_day"),)


class Hook(models.Model):
    """An address of a person's that is told by webhook, signed with a secret of its own."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="hooks")
    address = models.URLField(max_length=500)
    secret = models.CharField(max_length=80)
    made_at = models.DateTimeField(default=timezone.now)
    gone_at = models.DateTimeField(null=True)  # it answered that it wants no more

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=["user", "address"], name="hook_once"),)


class SentNotice(models.Model):
    """One notice to one person, as it was sent."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="notices")
    kind = models.CharField(max_length=20)
    at = models.DateTimeField(default=timezone.now)
    subject = models.CharField(max_length=300)
    text = models.TextField()
    payload = models.JSONField()

    class Meta:
        ordering = ("-id",)


class Delivery(models.Model):
    """One way that a notice goes: by mail, or to a hook."""

    class State(models.TextChoices):
        """Whether it is still tried, and what came of it."""

        WAITING = "waiting"
        SENT = "sent"
        FAILED = "failed"

    notice = models.ForeignKey(SentNotice, on_delete=models.CASCADE, related_name="deliveries")
    hook = models.ForeignKey(Hook, null=True, on_delete=models.SET_NULL)
    to = models.CharField(max_length=500)
    by = models.CharField(max_length=10, choices=[(b, b) for b in ("mail", "hook")])
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in State], default=State.WAITING)
    tries = models.PositiveSmallIntegerField(default=0)
    fault = models.CharField(max_length=300, blank=True, default="")
    moved_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("id",)
