"""What changed on a seat: every step of every reading, and of the facts behind them."""

import datetime as dt
from collections.abc import Iterator
from itertools import groupby
from typing import Any

from django.db.models import Q

from normant.seats.models import Reading, Seat, Survey
from normant_core.catalogue.settings import Setting, catalogue
from normant_core.seat.comparison import facts_between, machine_of
from normant_core.seat.survey import decode

LIMIT = 500


def changes_of(seat: Seat, *, since: dt.datetime) -> list[dict[str, Any]]:
    """Readings that became another value since then, and facts that did; the newest first, at most LIMIT."""
    changed = [*_readings(seat, since), *_facts(seat, since)]
    changed.sort(key=lambda change: change["title"])
    changed.sort(key=lambda change: change["at"], reverse=True)
    return changed[:LIMIT]


def first_survey(seat: Seat) -> dt.datetime | None:
    """Since when there is a record."""
    first: dt.datetime | None = (
        Reading.objects.filter(seat=seat).order_by("since").values_list("since", flat=True).first()
    )
    return first


def _readings(seat: Seat, since: dt.datetime) -> Iterator[dict[str, Any]]:
    held = Reading.objects.filter(seat=seat).filter(Q(until=None) | Q(until__gt=since))
    columns = ("setting", "app", "value", "since", "until", "cause")
    rows = held.order_by("setting", "app", "since").values(*columns)
    for (key, app), intervals in groupby(rows, key=lambda row: (row["setting"], row["app"])):
        setting = catalogue()[key]
        known = {"setting": key, "title": setting.title, "app": app or None, "family": setting.family}
        for step in _steps(list(intervals), setting):
            if step["at"] > since:
                yield {**known, **step}


def _steps(intervals: list[dict[str, Any]], setting: Setting) -> Iterator[dict[str, Any]]:
    """Where one interval follows another, and where none follows: there the setting was not read."""
    last = None
    for here in intervals:
        follows = last is not None and last["until"] == here["since"]
        if last and not follows:
            yield {"at": last["until"], "before": _shown(setting, last["value"]), "after": None, "cause": "unread"}
        if here["cause"] != "first seen":
            before = _shown(setting, last["value"]) if last and follows else None
            after = _shown(setting, here["value"])
            yield {"at": here["since"], "before": before, "after": after, "cause": here["cause"]}
        last = here
    if last and last["until"]:
        yield {"at": last["until"], "before": _shown(setting, last["value"]), "after": None, "cause": "unread"}


def _facts(seat: Seat, since: dt.datetime) -> Iterator[dict[str, Any]]:
    surveys = Survey.objects.filter(seat=seat).order_by("taken_at").values_list("taken_at", "body")
    last = None
    for taken_at, body in surveys:
        facts = decode(bytes(body)).facts
        if last is not None and taken_at > since:
            for name, before, after in facts_between(machine_of(last), machine_of(facts)):
                if not name.startswith(("gpu gpu0 driver", "application", "system version")):  # readings tell those
                    yield {
                        "at": taken_at,
                        "setting": None,
                        "title": name,
                        "app": None,
                        "family": "facts",
                        "before": before,
                        "after": after,
                        "cause": "facts",
                    }
        last = facts


def _shown(setting: Setting, value: Any) -> str:
    return setting.show(setting.parse(value))
