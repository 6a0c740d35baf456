"""Kept plans, opened: what of them is off norm by now."""

from collections.abc import Collection, Iterable, Sequence
from typing import Any

from normant.findings.models import Finding

from .models import KeptPlan
from .services.keep_plan import seen_plan

Place = tuple[str, str, str]  # seat, setting, application (empty: the machine's own)


def kept_plans() -> list[dict[str, Any]]:
    """Every kept plan, by name, with how much of it is off norm now."""
    plans = list(KeptPlan.objects.select_related("kept_by"))
    off = {(seat, setting, app) for _, seat, setting, app in _open({p[0] for plan in plans for p in plan.places})}
    return [_row(plan, off) for plan in plans]


def opened(plan: KeptPlan) -> dict[str, Any]:
    """A kept plan with the findings that it would settle now."""
    return {**_row(plan, set()), **off_norm_now(map(tuple, plan.places)), "terms": plan.terms}


def off_norm_now(places: Iterable[Sequence[str]]) -> dict[str, Any]:
    """Which findings of these places are open now, and how many of the places are settled."""
    wanted = {tuple(place) for place in places}
    findings = [row[0] for row in _open({place[0] for place in wanted}) if row[1:] in wanted]
    return {"findings": sorted(findings), "settled": len(wanted) - len(findings)}


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
