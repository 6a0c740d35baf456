"""Starting a rollout."""

from collections.abc import Sequence

import msgspec
from django.conf import settings
from django.db import transaction

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.errands.services.give_errands import give_errands
from normant.findings.models import Finding
from normant.ledger.services.record import record
from normant.plans.services.order_seats import order_seats
from normant.plans.services.plan import digest, plan
from normant.seats.models import Seat
from normant_core.base.wording import counted, listed
from normant_core.plan.plan import SeatPlan
from normant_core.rollout.schedule import Terms

from ..authority import PlansOfRollout
from ..models import Leg, Rollout
from .advance import advance_soon
from .news import tell_of_legs

NAMED = 2  # settings that a title names


@transaction.atomic
def start(
    user: User,
    findings: Sequence[Finding],
    *,
    seen: str,
    title: str = "",
    terms: Terms = Terms(),  # noqa: B008 - frozen
) -> Rollout:
    """A rollout of the plan that was `seen` (its digest), in waves on these terms. Raises Problem.

    It runs, or waits for a second person where the house asks for one. The same plan started once more, by a second
    press or at the same instant, is the rollout that was started.
    """
    lock("start", [seen])
    if there := Rollout.objects.filter(
        seen=seen, ended_at=None, state__in=(Rollout.State.RUNNING, Rollout.State.PROPOSED), legs__ended_at=None
    ).first():
        if there.created_by_id != user.pk or there.terms != msgspec.to_builtins(terms):
            raise Problem(409, "Started already", f"rollout {there.pk} already does this: open it", rollout=there.pk)
        return there
    plans = every = plan(findings, rounder=terms.rounder)
    if digest(plans) != seen:
        raise Problem(
            409, "The plan changed", "a seat or the standard has changed since you opened the plan: review it again"
        )
    plans = [made for made in plans if made.changes]
    if not plans:
        raise Problem(422, "Nothing to do", "none of these findings can be corrected remotely")
    ordered = order_seats(plans, terms)
    if ordered.waves.without:
        late = ", ".join(f"{seat}: {why}" for seat, why in ordered.waves.without)
        raise Problem(409, "Not all before the deadline", f"{late}. Leave these seats out, or give more time")
    kept_terms = msgspec.to_builtins(terms)
    state = Rollout.State.PROPOSED if settings.NORMANT.second_person else Rollout.State.RUNNING
    rollout = Rollout.objects.create(
        title=title or _title(plans), created_by=user, terms=kept_terms, state=state, seen=seen
    )
    seats = Seat.objects.in_bulk([made.seat for made in plans], field_name="name")
    slots = ordered.slots
    Leg.objects.bulk_create(
        Leg(
            rollout=rollout,
            seat=seats[made.seat],
            plan=msgspec.to_builtins(made),
            wave=slots[made.seat].wave,
            not_before=terms.begins,
        )
        for made in plans
    )
    if terms.errands:
        by_hand = {(p.seat, left.setting, left.app or "") for p in every for left in p.left if left.errand}
        on_errands = [f for f in findings if (f.seat.name, f.setting, f.app) in by_hand]
        give_errands(user, on_errands, rollout=rollout.pk, held=state == Rollout.State.PROPOSED)
    done = "propose rollout" if state == Rollout.State.PROPOSED else "start rollout"
    plans_digest = PlansOfRollout.read(rollout).digest
    detail = {"title": rollout.title, "seats": sorted(seats), "terms": kept_terms, "plans": plans_digest}
    record(user.username, done, f"rollout {rollout.pk}", **detail)
    advance_soon(rollout.pk)
    tell_of_legs(rollout)
    return rollout


def _title(plans: Sequence[SeatPlan]) -> str:
    """Return a title such as `Correct Memory reserve and Power profile on pan-03`."""
    titles = list(dict.fromkeys(change.title for made in plans for change in made.changes))
    what = listed(titles) if len(titles) <= NAMED else counted(len(titles), "setting")
    where = plans[0].seat if len(plans) == 1 else counted(len(plans), "seat")
    return f"Correct {what} on {where}"
