"""Taking in a survey: readings as intervals, a row only where a value changed."""

import datetime as dt
from collections.abc import Collection
from typing import Any

import msgspec

from normant_core.catalogue import catalogue
from normant_core.facts import Facts, derived_readings
from normant_core.survey import Key
from normant_core.survey import Reading as CoreReading
from normant_core.survey import Survey as CoreSurvey

from ..models import Reading, Seat, Survey
from ..views_of import latest_survey

# What follows from the versions of what is installed: nobody chose it at the seat.
_BY_VERSION = {"system.version", "app.version", "app.edition", "driver.version", "driver.branch", "driver.released"}


class Changes(msgspec.Struct, frozen=True):
    """What a survey told anew: readings that changed, and whether the facts did."""

    readings: frozenset[Key]
    facts: bool
    first: bool


def take_survey(seat: Seat, survey: CoreSurvey, body: bytes, *, ours: Collection[Key]) -> Changes:
    """Keep a survey newer than the last. `ours` are the readings that receipts explain.

    Within the caller's transaction, with the seat's presence locked.
    """
    before = latest_survey(seat)
    Survey.objects.filter(seat=seat, latest=True).update(latest=False)
    Survey.objects.create(seat=seat, taken_at=survey.taken_at, body=body)
    moved = _move_readings(seat, survey, ours, first=before is None, versions=_versions_moved(before, survey))
    facts = before is not None and _still(before.facts) != _still(survey.facts)
    return Changes(frozenset(moved), facts, before is None)


def _move_readings(
    seat: Seat, survey: CoreSurvey, ours: Collection[Key], *, first: bool, versions: set[str | None]
) -> list[Key]:
    now = {(r.setting, r.app): (value, native) for r, value, native in _told(survey)}
    held = {(r.setting, r.app or None): r for r in Reading.objects.current().filter(seat=seat)}
    same = [key for key, (value, _) in now.items() if key in held and _stays(held[key], value, survey.taken_at)]
    # What was entered by hand stays until the survey tells it.
    gone = [held[key].pk for key in held if key not in same and (key in now or held[key].cause != "by hand")]
    Reading.objects.filter(pk__in=gone).update(until=survey.taken_at)
    fresh = [key for key in now if key not in same]
    Reading.objects.bulk_create(
        Reading(
            seat=seat,
            setting=key[0],
            app=key[1] or "",
            value=now[key][0],
            native=now[key][1],
            since=survey.taken_at,
            cause=_cause(key, ours, first=first or key not in held, versions=versions),
        )
        for key in fresh
    )
    _move_places(held, now, same)
    return [*fresh, *(key for key in held if key not in now and held[key].pk in gone)]


def _move_places(held: dict[Key, Reading], now: dict[Key, tuple[Any, Any]], same: list[Key]) -> None:
    """A value that stayed may stand on another line by now."""
    for key in same:
        if held[key].native != now[key][1]:
            held[key].native = now[key][1]
            held[key].save(update_fields=["native"])


def _told(survey: CoreSurvey) -> list[tuple[CoreReading, Any, Any]]:
    """Each reading with its canonical JSON value and its native place; those that facts imply included."""
    known, seen = catalogue(), {(r.setting, r.app) for r in survey.readings}
    implied = [
        CoreReading(setting, value, app)
        for (setting, app), value in derived_readings(survey.facts).items()
        if (setting, app) not in seen
    ]
    return [
        (r, known[r.setting].plain(known[r.setting].parse(r.value)), msgspec.to_builtins(r.native))
        for r in (*survey.readings, *implied)
    ]


def _stays(held: Reading, value: Any, taken_at: dt.datetime) -> bool:
    """What was entered by hand after the survey was taken is newer than the survey."""
    return held.since >= taken_at if held.cause == "by hand" else _equal(held.value, value)


def _equal(one: Any, two: Any) -> bool:
    """JSON's equality: true is not 1."""
    return type(one) is type(two) and bool(one == two)


def _cause(key: Key, ours: Collection[Key], *, first: bool, versions: set[str | None]) -> str:
    if first:
        return "first seen"
    if key in ours:
        return "ours"
    return "version" if key[1] in versions or key[0] in _BY_VERSION else "at the seat"


def _versions_moved(before: CoreSurvey | None, after: CoreSurvey) -> set[str | None]:
    """Applications whose version is another one than before."""
    old = {a.id: a.version for a in (before.facts.applications or ())} if before else {}
    return {a.id for a in after.facts.applications or () if a.id in old and old[a.id] != a.version}


def _still(facts: Facts) -> Facts:
    """The facts without what moves by itself: free space, and what is running."""
    volumes = tuple(msgspec.structs.replace(v, free=None) for v in facts.volumes or ())
    apps = tuple(msgspec.structs.replace(a, running=None) for a in facts.applications or ())
    return msgspec.structs.replace(facts, volumes=volumes, applications=apps)
