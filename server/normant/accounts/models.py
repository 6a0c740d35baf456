"""People, and the tokens that their scripts use."""

import hashlib
import secrets

from django.contrib.auth.models import AbstractUser
from django.db import models

from .permissions import ALLOWED, Permission, Role


def hashed(token: str) -> str:
    """SHA-256 of a random token: it has the entropy that a password lacks, so no slow hash is needed."""
    return hashlib.sha256(token.encode()).hexdigest()


class User(AbstractUser):
    """A person with one role; `seat` is the name of an editor's own."""

    role = models.CharField(max_length=20, choices=[(r.value, r.value) for r in Role], default=Role.VIEWER.value)
    seat = models.CharField(max_length=64, blank=True, default="")

    class Meta:
        constraints = (
            models.CheckConstraint(condition=models.Q(role__in=[r.value for r in Role]), name="user_role_known"),
        )

    @property
    def permissions(self) -> frozenset[Permission]:
        """What the role includes; nothing for somebody who was disabled."""
        return ALLOWED[Role(self.role)] if self.is_active else frozenset()

    def may(self, permission: Permission) -> bool:
        """Whether the role includes it."""
        return permission in self.permissions


class AccessToken(models.Model):
    """A script's way in, as the person who made it."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)

    @classmethod
    def make(cls, user: User, name: str) -> str:
        """A new token; it is not kept and cannot be shown again."""
        token = "nrm_" + secrets.token_urlsafe(32)
        cls.objects.create(user=user, name=name, digest=hashed(token))
        return token


class Act(models.Model):
    """An act that was asked for under a key of the caller's (header `Idempotency-Key`), and what was answered."""

    who = models.CharField(max_length=80)
    key = models.CharField(max_length=80)
    request = models.CharField(max_length=64)  # SHA-256 of what was asked
    status = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=80)
    body = models.BinaryField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=["who", "key"], name="act_once"),)
        indexes = (models.Index(fields=["at"]),)
