"""In which order the seats of a plan have their turn."""

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

from django.db.models import Count
from django.utils import timezone

from normant.bookings.rooms import booked_rooms
from normant.common.local_time import full_words
from normant.common.problems import Problem
from normant.seats.floor import is_heard
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.plan.plan import SeatPlan
from normant_core.rollout.schedule import PlannedSeat, Schedule, Terms, schedule
from normant_core.rollout.waves import Span
from normant_core.seat.facts import Facts
from normant_core.seat.survey import Survey

LONGEST = dt.timedelta(days=366)


def order_seats(plans: Sequence[SeatPlan], terms: Terms) -> Schedule:
    """Canaries and waves on these terms, from now on. Raises Problem where the time is no time for it."""
    now = timezone.now()
    if terms.begins and terms.begins > now + LONGEST:
        raise Problem(422, "Begins too late", "choose a start within the next year")
    if terms.ends and terms.ends <= max(terms.begins or now, now):
        raise Problem(422, "Ends too early", f"{full_words(terms.ends)} leaves no time: choose a later end")
    if bool(terms.opens) != bool(terms.closes):
        raise Problem(422, "Half a window", "a time window needs a start and an end")
    seats = Seat.objects.filter(name__in=[plan.seat for plan in plans]).select_related("presence")
    known = {seat.name: seat for seat in seats}
    surveys = latest_surveys(seat.pk for seat in seats)
    roles = dict(Seat.objects.active().values_list("role").annotate(Count("pk")))
    booked = booked_rooms((seat.room for seat in seats), max(terms.begins or now, now))
    parts = [_part(known[plan.seat], plan, surveys, booked) for plan in plans if plan.changes]
    return schedule(parts, terms, roles, timezone.localtime(now))


def order_object(made: Schedule) -> dict[str, Any]:
    """As the API tells it."""
    waves: dict[int, list[dict[str, Any]]] = {}
    for slot in made.waves.slots:
        turn = {"seat": slot.seat, "begins": slot.begins, "ends": slot.ends, "why": slot.why}
        waves.setdefault(slot.wave, []).append(turn)
    return {
        "sentence": made.sentence,
        "waves": [{"wave": number, "turns": turns} for number, turns in sorted(waves.items())],
        "without": [{"seat": seat, "why": why} for seat, why in made.waves.without],
        "done": made.waves.done,
    }


def _part(
    seat: Seat, plan: SeatPlan, surveys: Mapping[int, Survey], booked: Mapping[str, tuple[Span, ...]]
) -> PlannedSeat:
    survey = surveys.get(seat.pk)
    facts = survey.facts if survey else Facts()
    return PlannedSeat(
        plan, facts, seat.room, seat.role, seat.hardware_class, is_heard(seat), booked.get(seat.room, ())
    )
