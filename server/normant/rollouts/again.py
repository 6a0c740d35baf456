"""Earlier rollouts as plans: what of them is off norm by now."""

from typing import Any

import msgspec

from normant.plans.opened import off_norm_now
from normant_core.plan.plan import SeatPlan

from .models import Rollout


def again(rollout: Rollout) -> dict[str, Any]:
    """An earlier rollout as a plan: what it was about and is off norm by now, on the same terms without its hours."""
    plans = [msgspec.convert(leg.plan, SeatPlan) for leg in rollout.legs.all()]
    changed = {(p.seat, c.setting, c.app or "") for p in plans for c in p.changes}
    places = changed | {(p.seat, left.setting, left.app or "") for p in plans for left in p.left}
    terms = {**rollout.terms, "begins": None, "ends": None}
    return {"name": rollout.title, **off_norm_now(sorted(places)), "terms": terms}
