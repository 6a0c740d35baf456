"""What a house knows of its stores, in its archive: deliveries, ended productions, projects, standing care, figures.

Plans of clearing are handed out to be read and not taken in again: their lists are on seats, signed by another key.
"""

import datetime as dt
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from itertools import groupby
from typing import Any

import msgspec
from django.db.models import Prefetch

from normant.accounts.models import User
from normant.clearings.models import Clearing, StoreClearing
from normant.clearings.objects import signer_of
from normant.deliveries.models import Delivery, EndedProduction
from normant.projects.models import NightlyLook, Project
from normant.seats.models import Seat
from normant.standing_care.models import StoppedCare
from normant.stores.models import StoreDay
from normant_core.care.deliveries import name_key
from normant_core.orders.projects import SeenProject

from .parts import lines, moment_of

DELIVERIES, ENDED, PROJECTS, NIGHTLY, STOPPED, FIGURES, CLEARINGS = (
    "deliveries.ndjson",
    "ended_productions.ndjson",
    "projects.ndjson",
    "nightly_looks.ndjson",
    "stopped_care.ndjson",
    "store_days.ndjson",
    "clearings.ndjson",
)
DELIVERY = ("project", "production", "file", "app", "project_app", "digest", "size", "proposed_by", "reason")
DELIVERY_MOMENTS = ("finished_at", "proposed_at", "signed_at", "withdrawn_at")
PROJECT = ("app", "file", "production", "seen", "brought_by")
FIGURE = ("size", "items", "unused")
AT_ONCE, FEW_PLANS = 2000, 10  # rows that are written together, and plans that are read together


def pack_stored(archive: zipfile.ZipFile) -> None:
    """Write it, of the moment of the transaction that the caller holds."""
    deliveries = Delivery.objects.order_by("id").values("seat__name", *DELIVERY, *DELIVERY_MOMENTS)
    archive.writestr(DELIVERIES, lines(deliveries))
    archive.writestr(ENDED, lines(EndedProduction.objects.values("name", "ended_at")))
    archive.writestr(PROJECTS, lines(Project.objects.order_by("id").values("seat__name", "seen_at", *PROJECT)))
    archive.writestr(NIGHTLY, lines(NightlyLook.objects.values("production", "storage", "made_at")))
    archive.writestr(STOPPED, lines(StoppedCare.objects.values("name", "why", "stopped_at")))
    for name, rows in ((FIGURES, _figures()), (CLEARINGS, _clearings())):
        with archive.open(name, "w") as part:  # of years of a large house: never all of it in memory
            for row in rows:
                part.write(lines([row]))


def _figures() -> Iterator[dict[str, Any]]:
    """Of each store of a seat the days on which it was another size."""
    place = ("seat__name", "volume", "store")
    rows = StoreDay.objects.filter(seat__retired_at=None).order_by(*place, "day").values_list(*place, "day", *FIGURE)
    for (seat, volume, store), days in groupby(rows.iterator(chunk_size=AT_ONCE), lambda row: row[:3]):
        yield {"seat": seat, "volume": volume, "store": store, "days": [row[3:] for row in days]}


def _clearings() -> Iterator[dict[str, Any]]:
    plans = Clearing.objects.order_by("id").select_related("created_by", "signed_by", "turn")
    stores = Prefetch("seats__stores", StoreClearing.objects.defer("planned"))
    for plan in plans.prefetch_related("seats__seat", stores).iterator(chunk_size=FEW_PLANS):
        moments = {name: getattr(plan, name) for name in ("created_at", "signed_at", "ended_at")}
        yield {
            **{name: getattr(plan, name) for name in ("title", "wanted", "state", "reason")},
            **moments,
            "created_by": plan.created_by.username if plan.created_by else None,
            "signed_by": signer_of(plan),
            "standing_care": plan.turn.name if hasattr(plan, "turn") else None,
            "stores": [
                {"seat": on.seat.name, "app": store.app, "kind": store.kind, "items": store.going}
                | {"promised": store.going_size, "cleared": store.cleared, "failed": store.failed}
                for on in plan.seats.all()
                for store in on.stores.all()
            ],
        }


def take_deliveries(rows: Iterable[dict[str, Any]], seats: Mapping[str, Seat], actor: str) -> int:
    """Whoever takes the archive in vouches for what was signed and withdrawn."""
    by, count = User.objects.get(username=actor), 0
    for row in rows:
        moments = {name: moment_of(row[name]) if row[name] else None for name in DELIVERY_MOMENTS}
        fields = {name: row[name] for name in DELIVERY if name in row or name != "project_app"}
        fields.setdefault("project_app", row["app"])  # archives of versions before 0.8.0 have none
        made = Delivery(**fields, seat=seats.get(row["seat__name"]), **moments)
        made.signed_by = by if made.signed_at else None
        made.withdrawn_by = by if made.withdrawn_at else None
        made.save()
        Delivery.objects.filter(pk=made.pk).update(proposed_at=moments["proposed_at"])
        count += 1
    return count


def take_ended(rows: Iterable[dict[str, Any]], actor: str) -> None:
    """Productions that have ended, by the moments at which they did."""
    by = User.objects.get(username=actor)
    for row in rows:
        made = EndedProduction(
            name=row["name"], key=name_key(row["name"]), ended_at=moment_of(row["ended_at"]), ended_by=by
        )
        made.save()


def take_projects(rows: Iterable[dict[str, Any]], seats: Mapping[str, Seat]) -> None:
    """As they were seen last; lists that were sent to editors are to be sent again."""
    for row in rows:
        if row["seat__name"] and row["seat__name"] not in seats:
            continue
        seen = msgspec.to_builtins(msgspec.convert(row["seen"], SeenProject))
        fields = {**{name: row[name] for name in PROJECT}, "seen": seen, "seen_at": moment_of(row["seen_at"])}
        made = Project(**fields, seat=seats[row["seat__name"]] if row["seat__name"] else None)
        made.save()


def take_nightly(rows: Iterable[dict[str, Any]], actor: str) -> None:
    """List the productions whose projects are scanned every night."""
    by = User.objects.get(username=actor)
    for row in rows:
        made = NightlyLook(production=row["production"], storage=row["storage"], made_by=by)
        made.save()


def take_stopped(rows: Iterable[dict[str, Any]], actor: str) -> None:
    """Sentences of standing care that somebody stopped stay so."""
    by = User.objects.get(username=actor)
    for row in rows:
        made = StoppedCare(name=row["name"], why=row["why"], stopped_by=by)
        made.save()


def take_figures(rows: Iterable[dict[str, Any]], seats: Mapping[str, Seat]) -> None:
    """Of seats that are in the register. Raises ValueError for a figure that none can be."""
    waiting = list[StoreDay]()
    for row in rows:
        seat = seats.get(row["seat"])
        if seat is None:
            continue
        for day, *numbers in row["days"]:
            size, items, unused = msgspec.convert(numbers, tuple[int, int | None, int | None])
            if min(size, items or 0, unused or 0) < 0:
                raise ValueError(f"{row['store'] or row['volume']!r} of {row['seat']}: a size of less than nothing")
            figures = {"size": size, "items": items, "unused": unused}
            when = dt.date.fromisoformat(day)
            waiting.append(StoreDay(seat=seat, volume=row["volume"], store=row["store"], day=when, **figures))
        if len(waiting) >= AT_ONCE:
            StoreDay.objects.bulk_create(waiting)
            waiting.clear()
    StoreDay.objects.bulk_create(waiting)
