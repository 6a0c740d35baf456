"""Plans that are kept by name."""

from collections.abc import Sequence
from dataclasses import dataclass

import msgspec
from django.db import transaction

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record
from normant_core.rollout.schedule import Terms

from ..models import KeptPlan


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a plan is to settle, as [seat, setting, application], and on which terms."""

    places: Sequence[Sequence[str]]
    terms: Terms


@transaction.atomic
def keep_plan(user: User, name: str, wanted: Wanted, *, number: int | None = None, seen: str = "") -> KeptPlan:
    """Keep a new plan, or another one in place of that number, of which this was `seen`. Raises Problem where the name
    is another plan's."""
    lock("kept plan", [name])
    row = KeptPlan.objects.select_for_update().filter(pk=number).first() if number else KeptPlan()
    if row is None:
        raise Problem(404, "No such plan", f"there is no plan {number}")
    if number:
        need_seen(seen, seen_plan(row), f"the plan {row.name!r}")
    if KeptPlan.objects.filter(name=name).exclude(pk=row.pk).exists():
        raise Problem(409, "Name taken", f"the plan {name!r} already exists: open it, or choose another name")
    row.name, row.kept_by = name, user
    row.places = sorted(map(list, wanted.places))
    row.terms = msgspec.to_builtins(wanted.terms)
    row.save()
    record(user.username, "keep plan", name, readings=len(row.places))
    tell("rollout", "plans")
    return row


def seen_plan(plan: KeptPlan) -> str:
    """What somebody who opened the plan has seen."""
    return seen_of(plan.name, plan.places, plan.terms)


@transaction.atomic
def forget_plan(number: int, user: User) -> None:
    """Raises Problem where there is none."""
    row = row_or_404(KeptPlan.objects.select_for_update().filter(pk=number), "plan", f"there is no plan {number}")
    record(user.username, "forget plan", row.name)
    row.delete()
    tell("rollout", "plans")
