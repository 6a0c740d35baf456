"""Beginning a plan: seats are asked what of their stores would go; nothing is touched."""

import datetime as dt
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.problems import Problem
from normant.deliveries.released import delivered_projects, deliveries_for, ended_for, ended_productions
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.base.quantities import Version
from normant_core.base.wording import counted, listed
from normant_core.care.clearing import MADE, OF_PROJECTS, Kind, kind_words
from normant_core.care.deliveries import DeliveredProject
from normant_core.dialects.dialect import Dialect
from normant_core.orders.clearing import MOST_NAMES, MOST_STORES, Ended, PlannedStore, StoreAim
from normant_core.orders.kinds import PlanClearing
from normant_core.seat.stores import MADE_AGAIN
from normant_core.seat.survey import Survey

from ..models import Clearing, SeatClearing, StoreClearing
from ..planned import planned_row

MOST_SEATS = 3000  # that one plan asks
DELIVERIES_SINCE = Version.parse("0.8.0")  # agents that look for a delivery by its production and application
MOST_OPEN = 50  # plans that are neither ended nor dropped


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a plan is asked for: kinds of stores on these seats, unused for so long, of one production or of all.

    `free`: as much goes as makes so many bytes free on each volume; `quota`: as is too much for each store; `most`: no
    more bytes of a seat. `kinds_on` are fewer kinds on some seats; what `is_strict` halts at the first thing that is
    not as listed.
    """

    seats: Sequence[str]
    kinds: Sequence[Kind]
    unused_days: int = 60
    production: str = ""
    free: int | None = None
    quota: int | None = None
    begins: dt.datetime | None = None
    title: str = ""
    most: int | None = None
    kinds_on: Mapping[str, Sequence[Kind]] = field(default_factory=dict)
    is_strict: bool = False


@transaction.atomic
def begin_clearing(user: User | None, wanted: Wanted) -> Clearing:
    """Raises Problem where it asks for what is never cleared, for seats that are not there or too many, or where
    nothing fits."""
    _check(wanted)
    seats = list(Seat.objects.active().filter(name__in=wanted.seats).order_by("name"))
    if missing := {*wanted.seats} - {seat.name for seat in seats}:
        raise Problem(422, "No such seat", f"there is no seat {', '.join(sorted(missing)[:5])}")
    house = _HouseNow(wanted, ended_productions(), delivered_projects(), dialects())
    clearing = Clearing.objects.create(
        title=wanted.title[:200] or _title(wanted),
        wanted={**asdict(wanted), "begins": wanted.begins and wanted.begins.isoformat()},
        ended=[{"production": row.production, "at": row.at.isoformat()} for row in house.ended],
        begins=wanted.begins,
        is_strict=wanted.is_strict,
        created_by=user,
    )
    surveys = latest_surveys(seat.pk for seat in seats)
    rows = SeatClearing.objects.bulk_create(SeatClearing(clearing=clearing, seat=seat) for seat in seats)
    asked = sum(_ask(row, surveys.get(row.seat_id), house) for row in rows)
    if not asked:
        raise Problem(422, "Nothing to look through", "none of these seats has a store of these types")
    record(
        user.username if user else "server",
        "plan clearing",
        f"clearing {clearing.pk}",
        seats=[s.name for s in seats],
        title=clearing.title,
    )
    tell("clearing", str(clearing.pk))
    return clearing


@dataclass(frozen=True, slots=True)
class _HouseNow:
    """What a plan is asked for, and what holds in the house while it begins."""

    wanted: Wanted
    ended: tuple[Ended, ...]
    delivered: tuple[DeliveredProject, ...]
    dialects: Sequence[Dialect]

    def aims(self, seat: str, survey: Survey) -> tuple[StoreAim, ...]:
        """The stores of a seat that are looked through."""
        kinds = self.wanted.kinds_on.get(seat, self.wanted.kinds)
        return tuple(aims_of(survey, self.dialects, replace(self.wanted, kinds=kinds)))

    def action(self, survey: Survey, aims: tuple[StoreAim, ...]) -> PlanClearing:
        """What a seat is asked, with the productions and deliveries that it has files of. Raises Problem where they
        are too many.
        """
        ended, delivered = ended_for(survey, self.ended), tuple[DeliveredProject, ...]()
        if any(aim.kind in OF_PROJECTS for aim in aims):
            delivered = deliveries_for(survey, self.delivered)
        if max(len(ended), len(delivered)) > MOST_NAMES:
            raise Problem(
                409, "Too many names", f"{survey.seat} has files of more than {MOST_NAMES:,} productions or deliveries"
            )
        wanted = self.wanted
        return PlanClearing(
            aims,
            timezone.now(),
            ended,
            free=wanted.free,
            production=wanted.production,
            most=wanted.most,
            deliveries=delivered,
        )


def _ask(row: SeatClearing, survey: Survey | None, house: _HouseNow) -> bool:
    """Ask a seat what of its stores would go, or leave it out with the reason; whether it was asked."""
    if survey is None:
        return _leave_out(row, "has sent no survey")
    aims = house.aims(row.seat.name, survey)
    if not aims:
        return _leave_out(row, "has no store of these types")
    why = _too_old(survey)
    if why:
        _add_stores_in_trouble(row, [aim for aim in aims if aim.kind in OF_PROJECTS], why)
        aims = tuple(aim for aim in aims if aim.kind not in OF_PROJECTS)
    if not aims:
        return _leave_out(row, why)
    issue_order(row.seat, house.action(survey, aims), clearing=row)
    return True


def _leave_out(row: SeatClearing, why: str) -> bool:
    row.state, row.ended_at, row.message = SeatClearing.State.STOPPED, timezone.now(), why
    row.save()
    return False


def _add_stores_in_trouble(row: SeatClearing, aims: Sequence[StoreAim], why: str) -> None:
    """Add stores that nobody looks through, for people to see why; their places are behind those of an answer."""
    StoreClearing.objects.bulk_create(
        planned_row(row, MOST_STORES + number, PlannedStore(aim.app, aim.kind, trouble=why))
        for number, aim in enumerate(aims)
    )


def _too_old(survey: Survey) -> str:
    """Why the seat's agent is not asked for renders and backups; empty where it is."""
    if survey.agent.is_at_least(DELIVERIES_SINCE):
        return ""
    return f"its agent is {survey.agent.version[:40]}: renders and backups need {DELIVERIES_SINCE}"


def _check(wanted: Wanted) -> None:
    if never := [kind for kind in wanted.kinds if MADE[kind] == "never by us"]:
        raise Problem(422, "Never cleared", f"{never[0]} are never deleted")
    if len(wanted.seats) > MOST_SEATS:
        raise Problem(422, "Too many seats", f"a plan can have at most {MOST_SEATS:,} seats: plan one room at a time")
    if Clearing.objects.exclude(state__in=(Clearing.State.ENDED, Clearing.State.DROPPED)).count() >= MOST_OPEN:
        raise Problem(409, "Too many plans", f"{MOST_OPEN} plans are open: discard some of them first")


def _title(wanted: Wanted) -> str:
    """`Clear source cache and renders on 3 seats`."""
    kinds = listed(map(kind_words, wanted.kinds))
    where = wanted.seats[0] if len(wanted.seats) == 1 else counted(len(wanted.seats), "seat")
    return f"Clean up {kinds} on {where}"[:200]


def aims_of(survey: Survey, known: Iterable[Dialect], wanted: Wanted) -> Iterator[StoreAim]:
    """The stores of those kinds that a seat's preferences name, and the system's own."""
    named = {(reading.app, reading.setting) for reading in survey.readings if reading.app and reading.value}
    installed = {app.id: app.version for app in survey.facts.applications or ()}
    spoken = [d for d in known if d.app in installed and d.speaks_for(d.app, installed[d.app])]
    aims = list[StoreAim]()
    for kind in wanted.kinds:
        for dialect in spoken:
            settings = {store.setting for store in dialect.store if store.kind == kind}
            if not settings and kind in MADE_AGAIN:
                settings = {f"store.{kind}.path"}
            if any((dialect.app, setting) in named for setting in settings):
                aims.append(StoreAim(dialect.app, kind, wanted.unused_days, wanted.quota))
        if kind in ("temporary", "bin"):
            aims.append(StoreAim("", kind, wanted.unused_days, wanted.quota))
    yield from aims[:MOST_STORES]
