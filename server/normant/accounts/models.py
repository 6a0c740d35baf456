"""People, and the tokens that their scripts use."""

import datetime as dt
import hashlib
import secrets

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.crypto import salted_hmac

from .permissions import ALLOWED, SCOPES, Permission, Role, Scope


def hashed(token: str) -> str:
    """SHA-256 of a random token: it has the entropy that a password lacks, so no slow hash is needed."""
    return hashlib.sha256(token.encode()).hexdigest()


class User(AbstractUser):
    """A person with one role; `seat` is the name of an editor's own."""

    role = models.CharField(max_length=20, choices=[(r.value, r.value) for r in Role], default=Role.VIEWER.value)
    seat = models.CharField(max_length=64, blank=True, default="")
    last_seen_at = models.DateTimeField(null=True)
    epoch = models.PositiveIntegerField(default=0)  # counted on, everything that lets this person in ends at once
    links = models.PositiveIntegerField(default=0)  # to set a password: a new one ends those before
    scope = Scope.ALL  # of the token that the request came with

    class Meta:
        constraints = (
            models.CheckConstraint(condition=models.Q(role__in=[r.value for r in Role]), name="user_role_known"),
        )

    @property
    def permissions(self) -> frozenset[Permission]:
        """What the role includes, as far as the scope goes; nothing for somebody who was disabled."""
        return ALLOWED[Role(self.role)] & SCOPES[self.scope] if self.is_active else frozenset()

    def may(self, permission: Permission) -> bool:
        """Whether the role includes it."""
        return permission in self.permissions

    @property
    def let_in(self) -> str:
        """What sessions, links and feeds rest on: another password or epoch ends them."""
        return f"{self.password}|{self.epoch}"

    def get_session_auth_hash(self) -> str:
        """What a session was begun with."""
        return self._get_session_auth_hash()

    def _get_session_auth_hash(self, secret: str | None = None) -> str:
        return salted_hmac("normant.accounts.session", self.let_in, secret=secret, algorithm="sha256").hexdigest()


class AccessToken(models.Model):
    """A script's way in, as the person who made it."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    scope = models.CharField(max_length=10, choices=[(s.value, s.value) for s in Scope], default=Scope.ALL.value)
    created_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField(null=True)
    last_used_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
        constraints = (
            models.CheckConstraint(condition=models.Q(scope__in=[s.value for s in Scope]), name="token_scope_known"),
        )

    @classmethod
    def make(cls, user: User, name: str, scope: Scope = Scope.ALL, *, ends_at: dt.datetime | None = None) -> str:
        """A new token; it is not kept and cannot be shown again."""
        token = "nrm_" + secrets.token_urlsafe(32)
        cls.objects.create(user=user, name=name, digest=hashed(token), scope=scope.value, ends_at=ends_at)
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
