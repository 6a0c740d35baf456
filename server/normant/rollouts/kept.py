"""Kept plans, and earlier rollouts as plans: what of them is off norm by now."""

from collections.abc import Collection, Iterable, Sequence
from typing import Any

import msgspec

from normant.findings.models import Finding
from normant_core.plan import SeatPlan

from .models import KeptPlan, Rollout
from .services.keep_plan import seen_plan

Place = tuple[str, str, str]  # seat, setting, application (empty: the machine's own)


def kept_plans() -> list[dict[str, Any]]:
    """Every kept plan, by name, with how much of it is off norm now."""
    plans = list(KeptPlan.objects.select_related("kept_by"))
    off = {(seat, setting, app) for _, seat, setting, app in _open({p[0] for plan in plans for p in plan.places})}
    return [_row(plan, off) for plan in plans]


def opened(plan: KeptPlan) -> dict[str, Any]:
    """A kept plan with the findings that it would settle now."""
    return {**_row(plan, set()), **_now(map(tuple, plan.places)), "terms": plan.terms}


def again(rollout: Rollout) -> dict[str, Any]:
    """An earlier rollout as a plan: what it was about and is off norm by now, on the same terms without its hours."""
    plans = [msgspec.convert(leg.plan, SeatPlan) for leg in rollout.legs.all()]
    changed = {(p.seat, c.setting, c.app or "") for p in plans for c in p.changes}
    places = changed | {(p.seat, left.setting, left.app or "") for p in plans for left in p.left}
    terms = {**rollout.terms, "begins": None, "ends": None}
    return {"name": rollout.title, **_now(sorted(places)), "terms": terms}


def _now(places: Iterable[Sequence[str]]) -> dict[str, Any]:
    wanted = {tuple(place) for place in places}
    found = [row[0] for row in _open({place[0] for place in wanted}) if row[1:] in wanted]
    return {"findings": sorted(found), "settled": len(wanted) - len(found)}


def _open(seats: Collection[str]) -> list[tuple[int, str, str, str]]:
    rows = Finding.objects.wanting().filter(seat__name__in=seats)
    return list(rows.values_list("pk", "seat__name", "setting", "app"))


def _row(plan: KeptPlan, off: Collection[Place]) -> dict[str, Any]:
    places = [tuple(place) for place in plan.places]
    return {
        "id": plan.pk,
        "name": plan.name,
        "seats": len({place[0] for place in places}),
        "readings": len(places),
        "off_norm": sum(place in off for place in places),
        "kept_by": plan.kept_by.username,
        "kept_at": plan.kept_at,
        "seen": seen_plan(plan),
    }
