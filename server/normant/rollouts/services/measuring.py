"""Canaries that are measured: how they play or render before their change, and after it."""

from typing import Any

from normant.orders.models import Order
from normant_core.measure.comparison import Comparison, compare

from ..models import Leg, Rollout
from .issue_leg import issue_measuring


def measure_before(leg: Leg) -> bool:
    """Have it measured as it is, where its rollout asks for that; whether it does."""
    job = leg.rollout.core_terms.measure
    if leg.rollout.kind != Rollout.Kind.CORRECT or leg.wave or not job:
        return False
    issue_measuring(leg, job)
    return True


def measure_after(leg: Leg, measured: list[Order]) -> bool:
    """Have it measured once more, where it was once; whether it is."""
    job = leg.rollout.core_terms.measure
    if not job or [bool(runs_of(order)) for order in measured] != [True]:
        return False
    issue_measuring(leg, job)
    leg.message = f"written and read back; measured again: how it {job}s now"
    leg.save(update_fields=["message", "moved_at"])
    return True


def shown_by(leg: Leg, measured: list[Order]) -> str:
    """What the runs show, kept with the leg; a sentence, empty where it was not measured at all."""
    job = leg.rollout.core_terms.measure
    if not measured or not job:
        return ""
    runs = [runs_of(order) for order in measured]
    if len(runs) < 2 or not all(runs):
        why = next(((order.receipt or {}).get("message") for order in measured if not runs_of(order)), "")
        return f"not measured: {why}"
    comparison = compare(job, runs[0], runs[1])
    leg.measured = _as_kept(comparison, runs)
    return comparison.sentence


def runs_of(order: Order) -> list[float]:
    """Every run of a measurement; none where it came to nothing."""
    return list((order.receipt or {}).get("measured", ()))


def _as_kept(comparison: Comparison, runs: list[list[float]]) -> dict[str, Any]:
    return {"before": runs[0], "after": runs[1], "outcome": comparison.outcome, "sentence": comparison.sentence}
