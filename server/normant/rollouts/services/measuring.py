"""Canaries that are measured: runs as they are and with their change, in blocks, before anything stays changed.

The runs are those of a trial: a change is made for a run, and put back after it. So a canary that would become worse is
never corrected at all.
"""

from collections.abc import Sequence

import msgspec

from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant_core.base.wording import listed
from normant_core.catalogue.settings import catalogue
from normant_core.measure.design import blocks
from normant_core.measure.estimates import speed_words
from normant_core.measure.question import it_does
from normant_core.measure.runs import Run
from normant_core.measure.verdict import Compared, verdict
from normant_core.orders.kinds import Measure, Settable, parse_order, settable
from normant_core.plan.actions import actions_of
from normant_core.plan.plan import SeatPlan

from ..models import Leg, Rollout

BLOCKS, RUNS = 5, 2  # of both conditions each; the first run after a change is thrown away
SURE = 0.01  # with a dozen canaries more would make one look worse by chance every few rollouts
AS_IT_WAS, CHANGED = "as it was", "changed"


def measure_first(leg: Leg) -> bool:
    """Have a canary measured, where its rollout asks for that, by what of its change goes back; whether it is."""
    job = leg.rollout.core_terms.measure
    if leg.rollout.kind != Rollout.Kind.CORRECT or leg.wave or not job:
        return False
    actions = [action for action, _ in actions_of(msgspec.convert(leg.plan, SeatPlan))]
    under = settable(actions)
    if not under:
        leg.measured = {"sentence": f"not measured: {_stays(leg)} cannot be restored automatically"}
        leg.save(update_fields=["measured"])
        return False
    conditions: dict[str, tuple[Settable, ...]] = {AS_IT_WAS: (), CHANGED: under}
    order = [name for block in blocks(list(conditions), BLOCKS, seed=leg.pk) for name in block]
    for place, name in enumerate(order):
        issue_order(leg.seat, Measure(job, RUNS, conditions[name]), place=place, leg=leg)
    return True


def keep_shown(leg: Leg, measured: Sequence[Order]) -> bool:
    """Keep with the leg what its runs show; whether its change would make it worse."""
    job = leg.rollout.core_terms.measure
    failed = next((order for order in measured if not figures_of(order)), None)
    if failed or not job:
        why = (failed.receipt or {}).get("message", "") if failed else ""
        leg.measured = {"sentence": f"not measured: {why}"}
    else:
        runs = [_run(leg, place, order) for place, order in enumerate(sorted(measured, key=lambda order: order.place))]
        (compared,) = verdict(job, sorted(runs, key=lambda run: run.condition != AS_IT_WAS), alpha=SURE).comparisons
        figures = {name: [run.value for run in runs if run.condition == name] for name in (AS_IT_WAS, CHANGED)}
        both = {"before": figures[AS_IT_WAS], "after": figures[CHANGED]}
        without = f", without {stays}, which cannot be restored automatically" if (stays := _stays(leg)) else ""
        leg.measured = {**both, "outcome": compared.outcome, "sentence": f"{_spoken(job, compared)}{without}"}
    leg.save(update_fields=["measured"])
    return leg.measured.get("outcome") == "worse"


def _stays(leg: Leg) -> str:
    """What of its plan no run can try, because it would stay: a store that moves, a driver, a template."""
    of_plan = actions_of(msgspec.convert(leg.plan, SeatPlan))
    keys = [key for action, keys in of_plan if not settable([action]) for key in keys]
    return listed(dict.fromkeys(catalogue()[setting].title for setting, _ in keys))


def shown_by(leg: Leg) -> str:
    """What the runs of a leg showed, in a sentence; empty where it was not measured at all."""
    return str((leg.measured or {}).get("sentence", ""))


def figures_of(order: Order) -> list[float]:
    """Every run of a measuring order; none where it came to nothing."""
    return list((order.receipt or {}).get("measured", ()))


def _run(leg: Leg, place: int, order: Order) -> Run:
    action = parse_order(bytes(order.body)).action
    changed = isinstance(action, Measure) and bool(action.under)
    return Run(leg.seat.name, str(place // 2), CHANGED if changed else AS_IT_WAS, figures_of(order)[-1])


def _spoken(job: str, compared: Compared) -> str:
    """`plays 20 % faster (12 to 29 %)`"""
    interval = speed_words(compared.ratio, compared.low, compared.high)
    if compared.outcome == "no difference shown":
        return f"no difference shown ({interval})"
    return f"{it_does(job)} {interval}"
