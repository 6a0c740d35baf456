"""Seats as core judges them: the newest survey with what the register says."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable, Iterator

from django.utils import timezone

from normant_core.catalogue.settings import catalogue
from normant_core.judging.judge import View
from normant_core.seat.facts import Seat as CoreSeat
from normant_core.seat.survey import Survey as CoreSurvey
from normant_core.seat.survey import Unreadable, decode

from .models import Reading, Seat, Survey

STALE_DAYS = 30  # a reading by hand that is older says nothing of today


def register_of(seat: Seat) -> CoreSeat:
    """What the register says of a seat; what is empty there is unknown."""
    groups = (seat.role, seat.room, seat.production, seat.hardware_class)
    return CoreSeat(seat.name, *(text or None for text in groups))


def latest_survey(seat: Seat) -> CoreSurvey | None:
    """The newest survey, None where the seat never sent one."""
    body = Survey.objects.filter(seat=seat, latest=True).values_list("body", flat=True).first()
    return decode(bytes(body)) if body is not None else None


def latest_surveys(seats: Iterable[int]) -> dict[int, CoreSurvey]:
    """The newest survey of each of these seats (their keys) that sent one, from one query."""
    rows = Survey.objects.filter(seat__in=list(seats), latest=True).values_list("seat_id", "body")
    return {seat: decode(bytes(body)) for seat, body in rows}


def survey_at(seat: Seat, moment: dt.datetime | None) -> CoreSurvey | None:
    """The survey that held at a moment (None: now), None where there was none yet or it is no longer kept."""
    if moment is None:
        return latest_survey(seat)
    surveys = Survey.objects.filter(seat=seat, taken_at__lte=moment).order_by("-taken_at")
    body = surveys.values_list("body", flat=True).first()
    return decode(bytes(body)) if body is not None else None


def entered_by_hand(seat: Seat) -> list[Reading]:
    """What somebody entered for a seat and still holds."""
    return list(Reading.objects.current().by_hand().filter(seat=seat))


def latest_views(seats: Iterable[Seat] | None = None) -> Iterator[tuple[Seat, View]]:
    """Every seat that sent a survey, or those given, in order of name."""
    surveys = Survey.objects.filter(latest=True, seat__retired_at=None).select_related("seat").order_by("seat__name")
    if seats is not None:
        surveys = surveys.filter(seat__in=list(seats))
    entered, now = defaultdict[int, list[Reading]](list), timezone.now()
    for reading in Reading.objects.current().by_hand():
        entered[reading.seat_id].append(reading)
    for survey in surveys.iterator(chunk_size=200):
        yield survey.seat, merged(survey.seat, decode(bytes(survey.body)), entered[survey.seat_id], now)


def views_at(moment: dt.datetime) -> Iterator[tuple[Seat, View]]:
    """Every seat as it was at a moment, in order of name: the survey that held, and what was entered by hand."""
    held = Survey.objects.filter(taken_at__lte=moment, seat__retired_at=None).order_by("seat__name", "-taken_at")
    entered = defaultdict[int, list[Reading]](list)
    for reading in Reading.objects.at(moment).by_hand():
        entered[reading.seat_id].append(reading)
    for survey in held.distinct("seat__name").select_related("seat").iterator(chunk_size=200):
        yield survey.seat, merged(survey.seat, decode(bytes(survey.body)), entered[survey.seat_id], moment)


def merged(seat: Seat, survey: CoreSurvey, entered: Iterable[Reading], now: dt.datetime) -> View:
    """A survey as core judges it, with what was entered by hand: what is too old is unread, with the reason."""
    view = View.of(survey, register_of(seat))
    values, errors = dict(view.readings), list(view.errors)
    for reading in entered:
        key, days = (reading.setting, reading.app or None), (now - reading.since).days
        if key in values:
            continue
        if days < STALE_DAYS:
            values[key] = catalogue()[reading.setting].parse(reading.value)
        else:
            source = f"dialect:{reading.app}:{reading.setting}" if reading.app else f"reading:{reading.setting}"
            errors.append(Unreadable(source, f"{reading.entered_by} entered it {days} days ago: check again"))
    view.readings, view.errors = values, tuple(errors)
    return view
