"""A seat for the person who sits there: what is planned on it and why, and what was done."""

from typing import Any

import msgspec

from normant.errands.listing import errands_of
from normant.findings.models import Finding
from normant.orders.models import Order
from normant.seats.models import Seat
from normant_core.base.wording import app_title, counted, listed, opening
from normant_core.orders.kinds import AskClose, AskRestart, parse_order
from normant_core.plan.plan import SeatPlan

from .models import Leg, Rollout
from .objects import leg_message
from .services.advance import Turns
from .services.answer import last_moment, may_be_put_off
from .services.ask import KINDS

LAST = 5  # of what was done


def seat_plans(seat: Seat) -> dict[str, Any]:
    """What is planned on a seat, and what was done there last."""
    legs = Leg.objects.filter(seat=seat).select_related("rollout__created_by", "seat__presence")
    coming = legs.filter(ended_at=None).exclude(rollout__state=Rollout.State.PROPOSED).order_by("rollout")
    done = legs.filter(ended_at__isnull=False).order_by("-ended_at")[:LAST]
    planned = [_planned(leg) for leg in coming]
    return {
        "seat": seat.name,
        "sentence": _sentence(planned),
        "planned": planned,
        "done": [_done(leg) for leg in done],
        "errands": errands_of(seat),
        "asked": [_asked(order) for order in Order.objects.waiting().filter(seat=seat, kind__in=KINDS)],
    }


def _asked(order: Order) -> dict[str, Any]:
    action = parse_order(bytes(order.body)).action
    question = {"app": action.app if isinstance(action, AskClose) else None, "since": order.created_at}
    return {**question, "why": action.why if isinstance(action, AskClose | AskRestart) else ""}


def _planned(leg: Leg) -> dict[str, Any]:
    plan = msgspec.convert(leg.plan, SeatPlan)
    return {
        **_about(leg, plan),
        "state": leg.state,
        "message": opening(leg_message(leg, Turns(leg.rollout))),
        "begun": leg.begun_at is not None,
        "objection": leg.objection,
        "asks_waiver": leg.asks_waiver,
        "may_put_off": leg.rollout.kind == Rollout.Kind.CORRECT and may_be_put_off(leg),
        "latest": last_moment(leg),
        "closes": plan.closes,
        "reasons": _reasons(leg.seat, plan),
        "plan": leg.plan,
    }


def _reasons(seat: Seat, plan: SeatPlan) -> list[dict[str, Any]]:
    settings = [change.setting for change in plan.changes]
    findings = Finding.objects.open().filter(seat=seat, setting__in=settings)
    because = {(f.setting, f.app): f.verdict.get("because") or "" for f in findings}
    reasons = [(change, because.get((change.setting, change.app or ""), "")) for change in plan.changes]
    return [{"title": change.title, "app": change.app, "because": why} for change, why in reasons if why]


def _done(leg: Leg) -> dict[str, Any]:
    plan = msgspec.convert(leg.plan, SeatPlan)
    changes = [f"{change.title}: {change.shown_after or '(empty)'}" for change in plan.changes]
    outcome = {"state": leg.state, "message": leg.message, "ended_at": leg.ended_at, "changes": changes}
    return {**_about(leg, plan), **outcome}


def _about(leg: Leg, plan: SeatPlan) -> dict[str, Any]:
    """A rollout, by what it does here: its own title speaks of the house."""
    titles = list(dict.fromkeys(change.title for change in plan.changes))
    more = len(titles) - 2
    named = ", ".join(titles[:2]) if more > 0 else " and ".join(titles)
    title = f"{named} and {more:,} more" if more > 0 else named
    undone = "Put back: " if leg.rollout.kind == Rollout.Kind.PUT_BACK else ""
    return {"rollout": leg.rollout_id, "title": undone + title, "by": leg.rollout.created_by.username}


def _sentence(planned: list[dict[str, Any]]) -> str:
    """`Three settings are going to be put right here; Corrow has to be closed for it.`"""
    count = sum(len(leg["plan"]["changes"]) for leg in planned)
    if not count:
        return "No changes planned."
    apps = list(dict.fromkeys(app_title(app) for leg in planned for app in leg["closes"]))
    sentence = f"{counted(count, 'setting is', 'settings are')} going to be changed here"
    if not apps:
        return f"{sentence}."
    return f"{sentence}; {listed(apps)} {'has' if len(apps) == 1 else 'have'} to be closed for it."
