"""Beginning a plan: seats are asked what of their stores would go; nothing is touched."""

import datetime as dt
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.problems import Problem
from normant.deliveries.released import delivered_projects, ended_productions
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.base.wording import counted_in_figures, listed
from normant_core.care.clearing import MADE, Kind, kind_words
from normant_core.dialects.dialect import Dialect
from normant_core.orders.clearing import MOST_NAMES, MOST_STORES, StoreAim
from normant_core.orders.kinds import PlanClearing
from normant_core.seat.stores import MADE_AGAIN
from normant_core.seat.survey import Survey

from ..models import Clearing, SeatClearing

MOST_SEATS = 3000  # that one plan asks
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
    ended, delivered = ended_productions(), delivered_projects()
    if len(ended) > MOST_NAMES or len(delivered) > MOST_NAMES:
        raise Problem(409, "Too many names", f"a plan names at most {MOST_NAMES:,} productions and projects")
    surveys, known = latest_surveys(seat.pk for seat in seats), dialects()
    clearing = Clearing.objects.create(
        title=wanted.title[:200] or _title(wanted),
        wanted={**asdict(wanted), "begins": wanted.begins and wanted.begins.isoformat()},
        ended=[{"production": row.production, "at": row.at.isoformat()} for row in ended],
        delivered=list(delivered),
        begins=wanted.begins,
        is_strict=wanted.is_strict,
        created_by=user,
    )
    asked = 0
    for seat in seats:
        survey = surveys.get(seat.pk)
        kinds = wanted.kinds_on.get(seat.name, wanted.kinds)
        aims = tuple(aims_of(survey, known, replace(wanted, kinds=kinds))) if survey else ()
        row = SeatClearing.objects.create(clearing=clearing, seat=seat)
        if not aims:
            row.state, row.ended_at = SeatClearing.State.STOPPED, timezone.now()
            row.message = "has no store of these kinds" if survey else "has sent no survey"
            row.save()
            continue
        action = PlanClearing(aims, timezone.now(), ended, delivered, wanted.free, wanted.production, wanted.most)
        issue_order(seat, action, clearing=row)
        asked += 1
    if not asked:
        raise Problem(422, "Nothing to look through", "none of these seats has a store of these kinds")
    record(
        user.username if user else "server",
        "plan clearing",
        f"clearing {clearing.pk}",
        seats=[s.name for s in seats],
        title=clearing.title,
    )
    tell("clearing", str(clearing.pk))
    return clearing


def _check(wanted: Wanted) -> None:
    if never := [kind for kind in wanted.kinds if MADE[kind] == "never by us"]:
        raise Problem(422, "Never cleared", f"{never[0]} are never removed by us")
    if len(wanted.seats) > MOST_SEATS:
        raise Problem(422, "Too many seats", f"one plan asks {MOST_SEATS:,} seats at most: plan room by room")
    if Clearing.objects.exclude(state__in=(Clearing.State.ENDED, Clearing.State.DROPPED)).count() >= MOST_OPEN:
        raise Problem(409, "Too many plans", f"{MOST_OPEN} plans are not over: drop some of them first")


def _title(wanted: Wanted) -> str:
    """`Clear source cache and renders on 3 seats`."""
    kinds = listed(map(kind_words, wanted.kinds))
    where = wanted.seats[0] if len(wanted.seats) == 1 else counted_in_figures(len(wanted.seats), "seat")
    return f"Clear {kinds} on {where}"[:200]


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
