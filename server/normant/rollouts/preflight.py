"""What stands in the way of plans now, from the last surveys and what else the house knows."""

from collections.abc import Sequence

from django.utils import timezone

from normant.bookings.rooms import booked_rooms, why_booked
from normant.orders.models import Order
from normant.seats.floor import is_heard
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.plan.plan import SeatPlan
from normant_core.plan.preflight import Known, preflight

from .models import Leg


def _at_work(rollout: int | None, *, is_cleaning: bool) -> str:
    if rollout:
        return f"waiting for rollout {rollout} on this seat"
    return "waiting for a clean-up on this seat" if is_cleaning else ""


def in_the_way(plans: Sequence[SeatPlan]) -> dict[str, list[str]]:
    """By seat; nothing where it can begin."""
    now = timezone.now()
    rows = Seat.objects.filter(name__in=[plan.seat for plan in plans if plan.changes]).select_related("presence")
    seats = {seat.name: seat for seat in rows}
    surveys = latest_surveys(seat.pk for seat in seats.values())
    booked = booked_rooms((seat.room for seat in seats.values()), now)
    begun = Leg.objects.filter(seat__in=seats.values(), begun_at__isnull=False, ended_at=None)
    at_work = dict(begun.values_list("seat__name", "rollout"))
    cleaning = set(Order.objects.cleaning_up().filter(seat__in=seats.values()).values_list("seat__name", flat=True))
    obstacles = dict[str, list[str]]()
    for plan in plans:
        if seat := seats.get(plan.seat):
            other = at_work.get(seat.name)
            known = Known(
                surveys.get(seat.pk),
                heard=is_heard(seat),
                at_work=_at_work(other, is_cleaning=seat.name in cleaning),
                booked=why_booked(seat.room, booked, now),
            )
            obstacles[seat.name] = preflight(plan, known)
    return obstacles
