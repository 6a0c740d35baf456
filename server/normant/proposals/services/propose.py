"""Proposing an act, and deciding on it: the second of two people carries it out."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.accounts.permissions import Permission, Role
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record

from ..models import Proposal

Execute = Callable[[Mapping[str, Any], User], None]
LONGEST_LINE = 2_000
MOST_LINES = 10_000
_KINDS: dict[str, tuple[Permission, Execute]] = {}


@dataclass(frozen=True, slots=True)
class Wanted:
    """An act: its kind, what it is done to, what people are to read of it, and what it is carried out with."""

    kind: str
    subject: str
    lines: Sequence[str]
    body: Mapping[str, Any]
    needs_administrator: bool = False


def register(kind: str, permission: Permission, execute: Execute) -> None:
    """How acts of a kind are carried out, and who may; `execute` gets the body, and the person who proposed it."""
    _KINDS[kind] = permission, execute


@transaction.atomic
def propose(user: User, wanted: Wanted) -> Proposal:
    """Have it wait for a second person; the same once more is the one that waits. Raises Problem."""
    lines = list(wanted.lines)
    if len(lines) > MOST_LINES or any(len(line) > LONGEST_LINE for line in lines):
        raise Problem(422, "Not read by anybody", "this is too long to show to a second person: split it")
    seen = seen_of(wanted.kind, wanted.subject, lines, wanted.body)
    lock("propose", [seen])
    if there := Proposal.objects.filter(seen=seen, decided_at=None).first():
        return there
    made = Proposal.objects.create(
        kind=wanted.kind,
        subject=wanted.subject[:160],
        lines=lines,
        body=dict(wanted.body),
        seen=seen,
        needs_administrator=wanted.needs_administrator,
        made_by=user,
    )
    record(user.username, "propose", wanted.subject, kind=wanted.kind, proposal=made.pk, seen=seen)
    tell("proposal", str(made.pk))
    return made


@transaction.atomic
def approve(number: int, user: User, *, seen: str) -> Proposal:
    """Carry out what was `seen`: all of it, or it goes on waiting. Raises Problem, or what the act raises."""
    proposal, execute = _waiting(number, user)
    if proposal.made_by_id == user.pk:
        raise Problem(403, "A second person", "the person who proposed this cannot approve it")
    if proposal.needs_administrator and Role.ADMINISTRATOR not in (user.role, proposal.made_by.role):
        raise Problem(403, "An administrator", "this needs an administrator")
    if not proposal.made_by.may(_KINDS[proposal.kind][0]):
        raise Problem(
            409, "No longer theirs", f"{proposal.made_by.username}, who proposed it, no longer has permission"
        )
    need_seen(seen, proposal.seen, f"proposal {number}")
    execute(proposal.body, proposal.made_by)
    return _decided(proposal, user, approved=True, reason="")


@transaction.atomic
def refuse(number: int, user: User, *, reason: str) -> Proposal:
    """Nothing is done; also by who proposed it. Raises Problem."""
    proposal, _ = _waiting(number, user)
    return _decided(proposal, user, approved=False, reason=reason[:300])


def _waiting(number: int, user: User) -> tuple[Proposal, Execute]:
    lock("proposal", [str(number)])
    proposal = row_or_404(
        Proposal.objects.select_related("made_by").filter(pk=number), "proposal", f"there is no proposal {number}"
    )
    if proposal.decided_at:
        raise Problem(409, "Decided", f"proposal {number} is already {'approved' if proposal.approved else 'rejected'}")
    permission, execute = _KINDS[proposal.kind]
    if not user.may(permission):
        raise Problem(403, "Not yours to do", f"you do not have permission to {permission.value}")
    return proposal, execute


def _decided(proposal: Proposal, user: User, *, approved: bool, reason: str) -> Proposal:
    proposal.decided_by, proposal.decided_at, proposal.approved, proposal.reason = (
        user,
        timezone.now(),
        approved,
        reason,
    )
    proposal.save()
    act = "approve proposal" if approved else "refuse proposal"
    record(
        user.username,
        act,
        proposal.subject,
        kind=proposal.kind,
        proposal=proposal.pk,
        by=proposal.made_by.username,
        reason=reason,
    )
    tell("proposal", str(proposal.pk))
    return proposal
