"""The seats as one flat table for spreadsheets: a row for each seat, a column for each fact and each setting."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from normant.dialects.models import Dialect
from normant.seats.models import Seat
from normant.seats.views_of import latest_views
from normant_core.base.wording import with_app
from normant_core.catalogue.settings import catalogue
from normant_core.judging.judge import View
from normant_core.seat.comparison import machine_of

MAX_COLUMNS = 160  # a seat may report any number of parts: those that most seats have come first
MAX_ROWS = 500  # of one request: a workbook of 80,000 cells takes about 5 s of CPU
OWN = ("seat", "room", "role", "production", "hardware class")


def seat_table(seats: Iterable[Seat]) -> list[dict[str, Any]]:
    """Return a row for each of these seats, all with the same columns; a cell is None where a seat has no such value.

    Settings are those of applications with a dialect, and those of the system. At most `MAX_COLUMNS` columns.
    """
    listed = sorted(seats, key=lambda seat: seat.name)
    views = {seat.pk: view for seat, view in latest_views(listed)}
    apps = {None, *Dialect.objects.values_list("app", flat=True)}
    facts = {pk: machine_of(view.facts) for pk, view in views.items()}
    settings = {pk: _settings(view, apps) for pk, view in views.items()}
    columns = [*_columns(facts.values(), MAX_COLUMNS // 2), *_columns(settings.values(), MAX_COLUMNS // 2)]
    return [
        {
            **dict(zip(OWN, (seat.name, seat.room, seat.role, seat.production, seat.hardware_class), strict=True)),
            **{name: settings.get(seat.pk, {}).get(name, facts.get(seat.pk, {}).get(name)) for name in columns},
        }
        for seat in listed
    ]


def _settings(view: View, apps: set[str | None]) -> dict[str, str]:
    known = catalogue().settings
    return {
        with_app(known[setting].title, app): known[setting].show(value)
        for (setting, app), value in view.readings.items()
        if setting in known and app in apps
    }


def _columns(rows: Iterable[dict[str, str]], most: int) -> list[str]:
    """Return the names that most rows have, in the order of the alphabet."""
    counts = Counter(name for row in rows for name in row if name not in OWN)
    return sorted(sorted(counts, key=lambda name: (-counts[name], name))[:most])
