"""The round: what needs a decision, most useful first, and the sentence at the top."""

import datetime as dt
from collections.abc import Collection, Iterable, Iterator, Sequence
from itertools import chain, islice
from typing import Any

import msgspec
import numpy as np
from django.contrib.postgres.aggregates import ArrayAgg
from django.db.models import Count, Exists, Max, OuterRef, Q
from django.utils import timezone

from normant.findings.models import Finding, Waiver
from normant.findings.querysets import FindingQuerySet
from normant.findings.reading import MOST_AT_ONCE
from normant.findings.resident import resident
from normant.findings.services.waive import seats_of, waiver_subject
from normant.packages.current import packages
from normant.rollouts.models import Leg, Rollout
from normant.seats.floor import silent_presences
from normant.seats.models import Seat
from normant_core.base.wording import counted, with_app
from normant_core.catalogue.settings import catalogue
from normant_core.house.waivers import WARNED
from normant_core.judging.groups import Group, OpenFinding, group_of, house_sentence, title_of, together
from normant_core.judging.judge import Verdict
from normant_core.judging.levels import in_words
from normant_core.orders.packages import SETTINGS, install
from normant_core.seat.survey import Key
from normant_core.words.overnight import DAYS, OFTEN, Episode, Flapping, flapping, happened

from .measured import ended_trials, idle_seats, verdicts_against
from .stored import (
    care_taken,
    care_waiting,
    clearings_waiting,
    deliveries_waiting,
    ended_holding,
    filling,
    full_volumes,
    put_back_lately,
    sweep_faults,
)

Place = tuple[str, str, str | None]  # seat, setting, application


LINES = 50  # findings of one item that are told one by one
FEW = 12  # silent seats that are told one by one
MOST = 500  # readings that come and go: of more there is another cause
_BLANK: dict[str, Any] = {
    "status": None,
    "severity": None,
    "distance": None,
    "because": None,
    "findings": [],
    "ids": [],
    "count": 0,
    "settings": [],
    "rollout": None,
    "waiver": None,
    "trial": None,
    "clearing": None,
    "production": None,
    "volume": None,
    "since": None,
}


def round_now() -> dict[str, Any]:
    """Cause groups, legs that stopped, waivers that end, seats that fell silent."""
    now = timezone.now()
    since, evening = _last_evening()
    episodes = _episodes(now - dt.timedelta(days=DAYS), since)
    flaps = flapping(episodes, now)
    places = {(flap.seat, flap.setting, flap.app) for flap in flaps}
    legs = _stopped_legs()
    tried = _tried(legs)
    coming = _findings_at(places)
    made = together(_groups({finding.id for finding in coming}))
    lines = _lines_of(made)
    settled = _settled_by_packages(made)
    open_of_seats = _open_of_single_seats(made)
    causes = [_cause(alike, tried, lines, settled, open_of_seats) for alike in made]
    shown = {finding.seat for finding in _findings_at(tried)} - {finding.seat for finding in coming}
    stopped = [_stopped(leg) for leg in legs if leg.seat.name not in shown]
    items = [
        *full_volumes(),  # what stops work now comes before what waits, and that before what ends tomorrow
        *_halted(),
        *stopped,
        *sweep_faults(),
        *_objections(),
        *_proposed(),
        *clearings_waiting(),
        *care_waiting(),
        *filling(),
        *causes,
        *_ending(),
        *verdicts_against(),
        *idle_seats(),
        *put_back_lately(),
        *(_flapping(flap, coming, tried) for flap in flaps),
        *deliveries_waiting(),
        *ended_holding(),
        *_silence(),
    ]
    ended = [*care_taken(), *ended_trials(since)]
    left, back = _moved(since, places)
    steady = [e for e in episodes if (e.seat, *e.key) not in places]
    sentence = house_sentence(left=left, back=back, decisions=len(items), since=evening)
    return {
        "sentence": sentence,
        "items": [{**_BLANK, **item} for item in (*items, *ended)],
        "since": since,
        "overnight": [msgspec.to_builtins(step) for step in happened(steady, since, now)],
    }


def _place(finding: OpenFinding) -> Place:
    return finding.seat, finding.verdict.setting, finding.verdict.app


def _groups(without: Collection[int]) -> list[Group]:
    """Every finding that wants something, by cause, in order of seats. Of thousands of verdicts one of each is read."""
    seats = list(Seat.objects.active().order_by("name").values_list("pk", "name"))
    names = np.array([name for _, name in seats], dtype=object)
    place = np.full(max((pk for pk, _ in seats), default=0) + 1, -1)
    place[[pk for pk, _ in seats]] = np.arange(len(seats))
    rows = Finding.objects.filter(closed_at=None, waiver=None).order_by().values_list("cause")
    grouped = list[tuple[list[int], list[str]]]()
    for _, numbers, of in rows.annotate(findings=ArrayAgg("pk"), of=ArrayAgg("seat")):
        # A retired seat has no place; nor has one that was made since its names were asked for.
        findings, owners = np.array(numbers), np.array(of)
        places = place[np.minimum(owners, len(place) - 1)]
        places[(owners >= len(place)) | np.isin(findings, list(without))] = -1
        order = np.argsort(places)[np.count_nonzero(places < 0) :]
        if len(order):
            grouped.append((findings[order].tolist(), names[places[order]].tolist()))
    verdicts = _verdicts_of(numbers[0] for numbers, _ in grouped)
    # What was settled just now has no verdict any more.
    return [group_of(verdicts[numbers[0]], numbers, of) for numbers, of in grouped if numbers[0] in verdicts]


def _findings_at(places: Collection[Place]) -> list[OpenFinding]:
    """The findings of these places that want something."""
    wanted = Finding.objects.wanting().filter(seat__name__in={seat for seat, _, _ in places})
    rows = wanted.order_by("seat__name", "id").values_list("pk", "seat__name", "verdict")
    wanting = [OpenFinding(pk, seat, msgspec.convert(verdict, Verdict)) for pk, seat, verdict in rows]
    return [finding for finding in wanting if _place(finding) in places]


def _settled_by_packages(made: Sequence[Sequence[Group]]) -> set[int]:
    """Findings about drivers that an approved package settles: an order does, and nobody has to walk there."""
    of_drivers = [group for alike in made for group in alike if group.verdict.setting in SETTINGS and group.verdict.fix]
    held = packages() if of_drivers else []
    if not held:
        return set()
    with resident.house() as house:
        facts = {row.seat.name: row.facts for row in house.rows}
    return {
        finding
        for group in of_drivers
        for finding, seat in zip(group.findings, group.seats, strict=True)
        if seat in facts and install(held, facts[seat], group.verdict.setting, str(group.verdict.fix)) is not None
    }


def _verdicts_of(findings: Iterable[int]) -> dict[int, Verdict]:
    rows = Finding.objects.filter(pk__in=list(findings)).values_list("pk", "verdict")
    return {pk: msgspec.convert(verdict, Verdict) for pk, verdict in rows}


def _lines_of(made: Sequence[Sequence[Group]]) -> dict[int, Verdict]:
    """The verdicts of the findings that are told one by one: bounds differ from seat to seat."""
    return _verdicts_of(finding for alike in made for finding, _ in islice(_pairs(alike), LINES))


def _pairs(alike: Sequence[Group]) -> Iterator[tuple[int, str]]:
    """Each finding of groups that stand together, with its seat."""
    for group in alike:
        yield from zip(group.findings, group.seats, strict=True)


def _episodes(often: dt.datetime, since: dt.datetime) -> list[Episode]:
    """What moved since yesterday, and what opened again and again in the last two weeks."""
    recent = Finding.objects.filter(seat__retired_at=None, waiver=None)
    # Of all that opened at most one stands open, so that what comes and goes is found by the few that were closed.
    again = (
        recent.filter(opened_at__gt=often, closed_at__isnull=False)
        .values("seat", "setting", "app")
        .annotate(times=Count("pk"))
        .filter(times__gte=OFTEN - 1)
        .order_by("-times")
        .values_list("seat", "setting", "app")[:MOST]
    )
    places = Q()
    for seat, setting, app in again:
        places |= Q(seat=seat, setting=setting, app=app)
    moved = Q(opened_at__gt=since) | Q(closed_at__gt=since)
    rows = recent.filter(moved | places & Q(opened_at__gt=often) if places else moved)
    return episodes_of(rows)


def episodes_of(findings: FindingQuerySet) -> list[Episode]:
    """The lives of these findings, in house time: what comes and goes is counted by its days."""
    columns = ("seat__name", "setting", "app", "opened_at", "opened_by", "closed_at", "closed_by")
    return [_episode(*row) for row in findings.values_list(*columns)]


def _episode(seat: str, setting: str, app: str, *life: Any) -> Episode:
    opened, opened_by, closed, closed_by = life
    local = timezone.localtime
    return Episode(seat, (setting, app or None), local(opened), opened_by, closed and local(closed), closed_by)


def _flapping(flap: Flapping, coming: list[OpenFinding], tried: dict[Place, str]) -> dict[str, Any]:
    own = [finding for finding in coming if _place(finding) == (flap.seat, flap.setting, flap.app)]
    verdict = own[0].verdict if own else None
    return {
        "kind": "flapping",
        "title": f"{with_app(catalogue()[flap.setting].title, flap.app)} keeps changing on {flap.seat}",
        "words": flap.sentence,
        "status": verdict.status if verdict else "in-norm",
        "severity": verdict.severity if verdict else None,
        "distance": verdict.distance if verdict else None,
        "because": verdict.because if verdict else "",
        "seats": [flap.seat],
        "findings": [_line(finding, tried) for finding in own],
        **_all([finding.id for finding in own], dict.fromkeys(finding.verdict.key for finding in own), set()),
    }


def _all(findings: Sequence[int], settings: Iterable[Key], by_order: Collection[Key]) -> dict[str, Any]:
    """What all of an item's findings are, also those that are not told one by one.

    `by_order`: settings that people set by hand, and that an order settles on every seat of the item.
    """
    known = catalogue()
    return {
        "ids": list(findings[:MOST_AT_ONCE]),
        "count": len(findings),
        "settings": [
            {
                "setting": key,
                "title": known[key].title,
                "app": app,
                "remote": known[key].remote or (key, app) in by_order,
            }
            for key, app in settings
        ],
    }


def _single_seat(alike: Sequence[Group]) -> str:
    """Return the seat of groups that all have the same one, else nothing."""
    first = alike[0].seats
    return first[0] if len(first) == 1 and all(group.seats == first for group in alike) else ""


def _open_of_single_seats(made: Iterable[Sequence[Group]]) -> dict[str, int]:
    """Count all settings off norm of each seat that has an item of its own: one of them may belong to a wider cause."""
    names = {_single_seat(alike) for alike in made if len(alike) > 1} - {""}
    rows = Finding.objects.wanting().filter(seat__name__in=names).values("seat__name").order_by()
    return dict(rows.annotate(findings=Count("pk")).values_list("seat__name", "findings"))


def _cause(
    alike: Sequence[Group],
    tried: dict[Place, str],
    verdicts: dict[int, Verdict],
    settled: set[int],
    open_of_seats: dict[str, int],
) -> dict[str, Any]:
    first = islice(_pairs(alike), LINES)
    lines = [OpenFinding(pk, seat, verdicts[pk]) for pk, seat in first if pk in verdicts]
    verdict = lines[0].verdict if lines else alike[0].verdict
    settings = dict.fromkeys(group.verdict.key for group in alike)
    by_hand = {group.verdict.key for group in alike if not settled.issuperset(group.findings)}
    findings = list(chain.from_iterable(group.findings for group in alike))
    return {
        "kind": "cause",
        "title": title_of(alike, open_of_seats.get(_single_seat(alike), 0)),
        "status": verdict.status,
        "severity": verdict.severity,
        "distance": verdict.distance,
        "words": in_words(verdict) if len(alike) == 1 else _titles(alike),
        "because": verdict.because if len(alike) == 1 else "",
        "seats": list(alike[0].seats) if len(alike) == 1 else sorted(set().union(*(group.seats for group in alike))),
        "findings": [_line(finding, tried) for finding in lines],
        **_all(findings, settings, settings.keys() - by_hand),
    }


def _titles(alike: Sequence[Group]) -> str:
    """`Effects of Corrow, Held back of Plinthe`: what stands together, in a line."""
    keys = dict.fromkeys(group.verdict.key for group in alike)
    return ", ".join(f"{with_app(catalogue()[setting].title, app)}" for setting, app in keys)


def _line(finding: OpenFinding, tried: dict[Place, str]) -> dict[str, Any]:
    verdict = finding.verdict
    return {
        "id": finding.id,
        "seat": finding.seat,
        "setting": verdict.setting,
        "title": catalogue()[verdict.setting].title,
        "app": verdict.app,
        "reading": verdict.reading_shown,
        "norm": verdict.norm.sentence,
        "fix": verdict.fix_shown,
        "distance": verdict.distance,
        "remote": catalogue()[verdict.setting].remote,
        "tried": tried.get(_place(finding)),
    }


def _stopped_legs() -> list[Leg]:
    """The last leg of each seat, where it stopped."""
    last = Leg.objects.order_by("seat__name", "-id").distinct("seat__name")
    legs = Leg.objects.filter(state=Leg.State.STOPPED, rollout__kind=Rollout.Kind.CORRECT, pk__in=last.values("pk"))
    return list(legs.select_related("seat", "rollout").order_by("seat__name"))


def _tried(legs: list[Leg]) -> dict[Place, str]:
    """Why the last correction of a reading did not settle it."""
    return {
        (leg.seat.name, change["setting"], change["app"]): leg.message for leg in legs for change in leg.plan["changes"]
    }


def _stopped(leg: Leg) -> dict[str, Any]:
    return {
        "kind": "leg",
        "title": f"{leg.rollout.title}: {leg.seat.name} stopped",
        "words": leg.message,
        "seats": [leg.seat.name],
        "rollout": leg.rollout_id,
    }


def _proposed() -> list[dict[str, Any]]:
    """Rollouts that wait for a second person."""
    rows = Rollout.objects.filter(state=Rollout.State.PROPOSED).select_related("created_by").order_by("pk")
    return [
        {
            "kind": "proposed",
            "title": f"Approval needed: {rollout.title}",
            "words": f"{rollout.created_by.username} planned it; a second person must approve it",
            "seats": [leg.seat.name for leg in rollout.legs.all()],
            "rollout": rollout.pk,
        }
        for rollout in rows.prefetch_related("legs__seat")
    ]


def _objections() -> list[dict[str, Any]]:
    """Seats where somebody asked that a rollout leave something as it is."""
    legs = Leg.objects.filter(state=Leg.State.WAITING, rollout__state=Rollout.State.RUNNING).exclude(objection="")
    return [
        {
            "kind": "objection",
            "title": f"{leg.seat.name} {'asks for a waiver' if leg.asks_waiver else 'objects'}: {leg.rollout.title}",
            "words": leg.objection,
            "seats": [leg.seat.name],
            "rollout": leg.rollout_id,
        }
        for leg in legs.select_related("seat", "rollout").order_by("pk")
    ]


def _halted() -> list[dict[str, Any]]:
    """Rollouts that halted by themselves, and that nobody has taken up."""
    left_waiting = Leg.objects.filter(rollout=OuterRef("pk"), state=Leg.State.HALTED, left_out=False)
    taken_up = Q(put_backs__isnull=False) & ~Exists(left_waiting)
    rows = Rollout.objects.filter(state=Rollout.State.HALTED).exclude(reason="").exclude(taken_up).order_by("-pk")
    return [
        {
            "kind": "halted",
            "title": f"Halted: {rollout.title}",
            "words": rollout.reason,
            "seats": [leg.seat.name for leg in rollout.legs.all() if leg.state == Leg.State.HALTED],
            "rollout": rollout.pk,
        }
        for rollout in rows.prefetch_related("legs__seat")
    ]


def _silence() -> list[dict[str, Any]]:
    """Silent seats one by one while they are few; a house that falls silent is one thing."""
    silent = silent_presences()
    names = list(silent.values_list("seat__name", flat=True))
    if len(names) <= FEW:
        return [_silent(name, seen) for name, seen in silent.values_list("seat__name", "seen_at")]
    together_silent = _silent("", silent.aggregate(last=Max("seen_at"))["last"])
    return [{**together_silent, "title": f"{counted(len(names), 'seat')} are not responding", "seats": names}]


def _silent(name: str, seen: dt.datetime | None) -> dict[str, Any]:
    return {
        "kind": "silent",
        "title": f"{name} is not responding",
        "words": "no contact with its agent; the last survey is shown",
        "seats": [name],
        "since": seen,
    }


def _ending() -> list[dict[str, Any]]:
    """Waivers that end soon and still cover something."""
    now = timezone.now()
    soon = Waiver.objects.holding(now).filter(ends_at__lte=now + WARNED)
    covering = soon.annotate(covers=Count("findings", filter=Q(findings__closed_at=None))).exclude(covers=0)
    return [
        {
            "kind": "waiver",
            "title": f"Waiver ends: {waiver_subject(waiver)}",
            "words": waiver.reason,
            "status": "waived",
            "seats": sorted(seats_of(waiver).filter(findings__waiver=waiver).values_list("name", flat=True).distinct()),
            "waiver": waiver.pk,
            "since": waiver.ends_at,
        }
        for waiver in covering.order_by("ends_at", "id")
    ]


def _last_evening() -> tuple[dt.datetime, str]:
    """Yesterday at 18:00, house time: when the last working day was over."""
    now = timezone.localtime()
    evening = (now - dt.timedelta(days=1)).replace(hour=18, minute=0, second=0, microsecond=0)
    return evening, "yesterday at 18:00"


def _moved(since: dt.datetime, coming: Collection[Place]) -> tuple[int, int]:
    """How many seats left the standard since then, and how many came back to it; what comes and goes is told apart."""
    own = Finding.objects.filter(seat=OuterRef("pk"), waiver=None)
    for seat, setting, app in coming:
        own = own.exclude(seat__name=seat, setting=setting, app=app or "")
    open_now = own.filter(closed_at=None)
    then = own.filter(Q(closed_at=None) | Q(closed_at__gt=since), opened_at__lte=since)
    seats = Seat.objects.active()
    left = seats.filter(Exists(open_now.filter(opened_at__gt=since)), ~Exists(then)).count()
    # A seat that went off norm and came back within the span came back too.
    back = seats.filter(Exists(own.filter(closed_at__gt=since)), ~Exists(open_now)).count()
    return left, back
