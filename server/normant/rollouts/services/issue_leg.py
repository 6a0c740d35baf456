"""The orders of a leg: what its plan asks of its seat's agent."""

import msgspec

from normant.orders.models import Order
from normant.orders.services.issue import explained_by, issue_order
from normant.seats.models import Seat
from normant_core.orders.kinds import PutBack, Rehearse
from normant_core.plan.actions import actions_of
from normant_core.plan.plan import SeatPlan

from ..models import Leg, Rehearsal


def issue_for(leg: Leg) -> list[Order]:
    """The orders of a leg, in the order in which they are to be carried out."""
    if leg.rollout.of:
        return _put_back_orders(leg)
    plan = msgspec.convert(leg.plan, SeatPlan)
    actions = actions_of(plan, remove_old=leg.rollout.core_terms.remove_old)
    return [issue_order(leg.seat, action, keys=keys, place=n, leg=leg) for n, (action, keys) in enumerate(actions)]


def issue_rehearsal(rehearsal: Rehearsal, seat: Seat, plan: SeatPlan) -> Order:
    """Have a seat look at everything that the plan's orders would look at."""
    actions, keys = zip(*actions_of(plan), strict=True)
    keys_of_all = [key for some in keys for key in some]
    return issue_order(seat, Rehearse(actions), keys=keys_of_all, rehearsal=rehearsal)


def _put_back_orders(leg: Leg) -> list[Order]:
    earlier = Order.objects.that_changed().filter(leg__rollout=leg.rollout.of, leg__seat=leg.seat)
    return [
        issue_order(leg.seat, PutBack(str(order.pk)), keys=explained_by(order), place=place, leg=leg)
        for place, order in enumerate(reversed(earlier))
    ]
