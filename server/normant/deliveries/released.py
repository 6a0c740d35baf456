"""Which projects are delivered, what a delivery releases, and which productions have ended."""

from collections import defaultdict
from collections.abc import Collection, Iterable
from dataclasses import dataclass

from normant.seats.models import Seat
from normant_core.care.clearing import OF_PROJECTS
from normant_core.care.deliveries import DeliveredProject, Deliveries, ProjectOfProduction, name_key
from normant_core.orders.clearing import Ended
from normant_core.seat.survey import MOST_PRODUCTIONS, MOST_PROJECTS, Store, Survey

from .models import Delivery, EndedProduction, ProjectOnSeat


@dataclass(frozen=True, slots=True)
class ReleasedStore:
    """Bytes of a seat's renders or backups that a delivery releases."""

    seat: str
    app: str
    kind: str
    size: int


def delivered_projects() -> tuple[DeliveredProject, ...]:
    """Each project with a signed delivery, by production, project and application."""
    rows = Delivery.objects.releasing().order_by("production", "project", "project_app")
    keys = list(rows.values_list("production", "project", "project_app").distinct())
    known = productions_by_project({project for _, project, _ in keys})
    return tuple(DeliveredProject(name, project, app, len(known[project]) == 1) for name, project, app in keys)


def productions_by_project(projects: Collection[str]) -> dict[str, set[str]]:
    """Of each of these names of projects, the productions (by `name_key`) that have a project of that name."""
    known = defaultdict[str, set[str]](set)
    for rows in (Delivery.objects.standing(), ProjectOnSeat.objects.filter(seat__retired_at=None)):
        named = rows.filter(project__in=projects).exclude(production="")
        for production, project in named.order_by().values_list("production", "project").distinct():
            known[project].add(name_key(production))
    return known


def released_by(delivery: Delivery) -> list[ReleasedStore]:
    """What a signature under it releases, by the newest surveys: each store with some of it, by seat."""
    known = productions_by_project([delivery.project])[delivery.project] | {name_key(delivery.production)}
    key = DeliveredProject(delivery.production, delivery.project, delivery.project_app, name_is_unique=len(known) == 1)
    own, sizes = Deliveries([key], delivery.project_app), defaultdict[tuple[str, str], int](int)
    rows = ProjectOnSeat.objects.filter(project=delivery.project, app=delivery.project_app, seat__retired_at=None)
    for seat, kind, production, size in rows.values_list("seat__name", "kind", "production", "size"):
        if own.find(production, delivery.project):
            sizes[seat, kind] += size
    return [ReleasedStore(seat, delivery.project_app, kind, size) for (seat, kind), size in sorted(sizes.items())]


def deliveries_for(survey: Survey, delivered: Iterable[DeliveredProject]) -> tuple[DeliveredProject, ...]:
    """Those of which a seat says that it has renders or backups: no seat learns of other projects."""
    by_app = defaultdict[str, list[DeliveredProject]](list)
    for row in delivered:
        by_app[row.app].append(row)
    concerning = dict[DeliveredProject, None]()
    for store in (store for store in survey.stores if store.purpose in OF_PROJECTS and store.app in by_app):
        concerning |= dict.fromkeys(_in_store(store, by_app[store.app or ""]))
    return tuple(concerning)


def _in_store(store: Store, delivered: list[DeliveredProject]) -> Iterable[DeliveredProject]:
    """All of its application where the store has more projects than its seat tells."""
    if len(store.projects) >= MOST_PROJECTS:
        return delivered
    there = {(name_key(share.production), share.project) for share in store.projects}
    return [row for row in delivered if {(name_key(row.production), row.project), ("", row.project)} & there]


def ended_for(survey: Survey, ended: Iterable[Ended]) -> tuple[Ended, ...]:
    """Those of which a seat says that it has files; all of them where its stores are not counted, or hold too many."""
    if not survey.stores or any(s.size is None or len(s.productions) >= MOST_PRODUCTIONS for s in survey.stores):
        return tuple(ended)
    there = {name_key(share.production) for store in survey.stores for share in store.productions}
    there |= {name_key(share.production) for store in survey.stores for share in store.projects}
    return tuple(row for row in ended if name_key(row.production) in there)


def is_delivered(project: ProjectOfProduction, app: str, delivered: Collection[tuple[str, str, str]]) -> bool:
    """Whether a delivery that a list rests on still stands; `delivered` are the keys that `delivery_keys` makes."""
    return (name_key(project.production), project.project, app) in delivered


def delivery_keys(delivered: Iterable[DeliveredProject]) -> set[tuple[str, str, str]]:
    """Production as folders may write it, project and application of each."""
    return {(name_key(row.production), row.project, row.app) for row in delivered}


def ended_productions() -> tuple[Ended, ...]:
    """Each production that has ended: one that a seat is booked on again is live, whatever was said of it."""
    live = live_keys()
    rows = EndedProduction.objects.values_list("name", "key", "ended_at")
    return tuple(Ended(name, ended_at) for name, key, ended_at in rows if key not in live)


def live_keys() -> set[str]:
    """Of the productions that seats are booked on, names as folders may write them."""
    names = Seat.objects.active().exclude(production="").values_list("production", flat=True).distinct()
    return {name_key(name) for name in names}
