"""Seats as core judges them: the newest survey with what the register says."""

import datetime as dt
from collections.abc import Iterable, Iterator

from normant_core.drift import View
from normant_core.facts import Seat as CoreSeat
from normant_core.survey import Survey as CoreSurvey
from normant_core.survey import decode

from .models import Seat, Survey


def register_of(seat: Seat) -> CoreSeat:
    """What the register says of a seat; what is empty there is unknown."""
    told = (seat.role, seat.room, seat.production, seat.hardware_class)
    return CoreSeat(seat.name, *(text or None for text in told))


def latest_survey(seat: Seat) -> CoreSurvey | None:
    """The newest survey, None where the seat never sent one."""
    body = Survey.objects.filter(seat=seat, latest=True).values_list("body", flat=True).first()
    return decode(bytes(body)) if body is not None else None


def survey_at(seat: Seat, moment: dt.datetime | None) -> CoreSurvey | None:
    """The survey that held at a moment (None: now), None where there was none yet or it is no longer kept."""
    if moment is None:
        return latest_survey(seat)
    found = Survey.objects.filter(seat=seat, taken_at__lte=moment).order_by("-taken_at")
    body = found.values_list("body", flat=True).first()
    return decode(bytes(body)) if body is not None else None


def latest_views(seats: Iterable[Seat] | None = None) -> Iterator[tuple[Seat, View]]:
    """Every seat that sent a survey, or those given, in order of name."""
    found = Survey.objects.filter(latest=True, seat__retired_at=None).select_related("seat").order_by("seat__name")
    if seats is not None:
        found = found.filter(seat__in=list(seats))
    for survey in found.iterator(chunk_size=200):
        yield survey.seat, View.of(decode(bytes(survey.body)), register_of(survey.seat))
