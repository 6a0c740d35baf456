"""By which authority a seat's settings are changed: a leg that is at work, whose plan says exactly that."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass

import msgspec

from normant.orders.authority import is_signed_by_person
from normant.orders.models import Order
from normant_core.orders.kinds import Correction, Measure, settable
from normant_core.plan.actions import actions_of
from normant_core.plan.plan import SeatPlan

from .models import Leg, Rollout

STARTED = ("start rollout", "approve rollout")  # entries of people by which a rollout runs


def why_no_leg(order: Order, action: Correction | Measure) -> str:
    """Why no rollout has a seat do this; empty where one does."""
    leg = Leg.objects.select_related("rollout").filter(orders=order, seat=order.seat_id).first()
    if leg is None:
        return "it belongs to no rollout on this seat"
    if leg.ended_at or leg.rollout.state not in (Rollout.State.RUNNING, Rollout.State.HALTED):
        return "its rollout is not at work on this seat"
    plans = PlansOfRollout.of(leg.rollout)
    if not is_signed_by_person(f"rollout {leg.rollout_id}", STARTED, plans=plans.digest):
        return "the ledger has no entry by which somebody started this rollout with these plans"
    if plans.by_leg.get(leg.pk) != digest_of_plan(leg.plan):
        return "its plan was changed after somebody started this rollout"
    plan = msgspec.convert(leg.plan, SeatPlan)
    planned = [planned for planned, _ in actions_of(plan, remove_old=leg.rollout.core_terms.remove_old)]
    is_planned = action.under in ((), settable(planned)) if isinstance(action, Measure) else action in planned
    return "" if is_planned else "its rollout plans something else"


@dataclass(frozen=True, slots=True)
class PlansOfRollout:
    """Digests (SHA-256) of the plan of each leg, by its number, and of all of them together with their seats."""

    by_leg: Mapping[int, str]
    digest: str

    @classmethod
    def of(cls, rollout: Rollout) -> "PlansOfRollout":
        """Those of a rollout, whose plans never change: read once in this process."""
        if rollout.pk not in PLANS_READ:
            while len(PLANS_READ) >= MOST_ROLLOUTS:
                PLANS_READ.pop(next(iter(PLANS_READ)))
            PLANS_READ[rollout.pk] = cls.read(rollout)
        return PLANS_READ[rollout.pk]

    @classmethod
    def read(cls, rollout: Rollout) -> "PlansOfRollout":
        """Those of a rollout, as they are now."""
        legs = rollout.legs.order_by("seat__name").values_list("pk", "seat__name", "plan")
        rows = [(number, seat, digest_of_plan(plan)) for number, seat, plan in legs]
        together = hashlib.sha256(msgspec.json.encode([(seat, digest) for _, seat, digest in rows])).hexdigest()
        return cls({number: digest for number, _, digest in rows}, together)


def digest_of_plan(plan: object) -> str:
    """SHA-256 of a leg's plan, as JSON with sorted keys."""
    return hashlib.sha256(msgspec.json.encode(plan, order="deterministic")).hexdigest()


MOST_ROLLOUTS = 20  # whose plans one process remembers
PLANS_READ = dict[int, PlansOfRollout]()
