"""The round: what needs a decision, most useful first, and the sentence at the top."""

import datetime as dt
from collections.abc import Collection, Iterable, Sequence
from itertools import islice
from typing import Any

import msgspec
from django.db.models import Count, Exists, OuterRef, Q
from django.utils import timezone

from normant.findings.models import Finding, Waiver
from normant.findings.querysets import FindingQuerySet
from normant.findings.reading import MOST_AT_ONCE
from normant.findings.resident import resident
from normant.findings.services.waive import seats_of, waiver_subject
from normant.packages.current import packages
from normant.rollouts.models import Leg, Rollout
from normant.seats.floor import silent_seats
from normant.seats.models import Seat
from normant_core.base.wording import counted, of_app, opening
from normant_core.catalogue.settings import catalogue
from normant_core.house.waivers import WARNED
from normant_core.judging.groups import Group, OpenFinding, groups, house_sentence, title_of
from normant_core.judging.judge import Verdict
from normant_core.judging.levels import in_words
from normant_core.orders.packages import SETTINGS, install
from normant_core.words.overnight import DAYS, OFTEN, Episode, Flapping, flapping, happened

Place = tuple[str, str, str | None]  # seat, setting, application


LINES = 50  # findings of one item that are told one by one
# What findings of one cause have in common: see `normant_core.judging.groups.groups`.
_CAUSE = (
    "setting",
    "app",
    "verdict__status",
    "verdict__reading",
    "verdict__norm__rule",
    "verdict__layer",
    "verdict__norm__check",
)
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
    findings, tried = _open_findings(), _tried(legs)
    coming = [f for f in findings if _place(f) in places]
    findings = [f for f in findings if _place(f) not in places]
    made = groups(findings)
    own = _verdicts([*coming, *(f for together in made for f in _lines_of(together))])
    settled = _settled_by_packages(findings)
    causes = [_cause(together, tried, own, settled) for together in made]
    shown = {f.seat for f in findings if _place(f) in tried}
    stopped = [_stopped(leg) for leg in legs if leg.seat.name not in shown]
    silent = _silence(silent_seats())
    items = [
        *_proposed(),
        *_objections(),
        *_halted(),
        *stopped,
        *_ending(),
        *causes,
        *(_flapping(flap, coming, tried, own) for flap in flaps),
        *silent,
    ]
    left, back = _moved(since, places)
    steady = [e for e in episodes if (e.seat, *e.key) not in places]
    sentence = house_sentence(left=left, back=back, decisions=len(items), since=evening)
    return {
        "sentence": sentence,
        "items": [{**_BLANK, **item} for item in items],
        "since": since,
        "overnight": [msgspec.to_builtins(step) for step in happened(steady, since, now)],
    }


def _place(finding: OpenFinding) -> Place:
    return finding.seat, finding.verdict.setting, finding.verdict.app


def _open_findings() -> list[OpenFinding]:
    """Every finding that wants something. One verdict stands for all of its cause: of thousands, few are read whole."""
    rows = Finding.objects.wanting().order_by("seat__name", "id").values_list("pk", "seat__name", *_CAUSE)
    seats, samples = list[tuple[int, str, int]](), dict[tuple[str, ...], int]()
    for pk, seat, *cause in rows:
        seats.append((pk, seat, samples.setdefault(tuple(cause), pk)))
    verdicts = _verdicts_of(samples.values())
    return [OpenFinding(pk, seat, verdicts[sample]) for pk, seat, sample in seats if sample in verdicts]


def _settled_by_packages(findings: Iterable[OpenFinding]) -> set[int]:
    """Findings about drivers that an approved package settles: an order does, and nobody has to walk there."""
    of_drivers = [finding for finding in findings if finding.verdict.setting in SETTINGS and finding.verdict.fix]
    held = packages() if of_drivers else []
    if not held:
        return set()
    with resident.house() as house:
        facts = {row.seat.name: row.facts for row in house.rows}
    return {
        finding.id
        for finding in of_drivers
        if finding.seat in facts
        and install(held, facts[finding.seat], finding.verdict.setting, str(finding.verdict.fix)) is not None
    }


def _verdicts_of(findings: Iterable[int]) -> dict[int, Verdict]:
    rows = Finding.objects.filter(pk__in=list(findings)).values_list("pk", "verdict")
    return {pk: msgspec.convert(verdict, Verdict) for pk, verdict in rows}


def _verdicts(findings: Iterable[OpenFinding]) -> dict[int, Verdict]:
    """Of each of these findings its own verdict: bounds differ from seat to seat."""
    return _verdicts_of(finding.id for finding in findings)


def _lines_of(together: list[Group]) -> list[OpenFinding]:
    """The findings of an item that are told one by one."""
    return list(islice((finding for group in together for finding in group.findings), LINES))


def _episodes(often: dt.datetime, since: dt.datetime) -> list[Episode]:
    """What moved since yesterday, and what opened again and again in the last two weeks."""
    recent = Finding.objects.filter(seat__retired_at=None, waiver=None)
    again = (
        recent.filter(opened_at__gt=often)
        .values("seat", "setting", "app")
        .annotate(times=Count("pk"))
        .filter(times__gte=OFTEN)
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


def _flapping(
    flap: Flapping, open_: list[OpenFinding], tried: dict[Place, str], verdicts: dict[int, Verdict]
) -> dict[str, Any]:
    places = [f for f in open_ if _place(f) == (flap.seat, flap.setting, flap.app)]
    own = [OpenFinding(f.id, f.seat, verdicts.get(f.id, f.verdict)) for f in places]
    return {
        "kind": "flapping",
        "title": f"{catalogue()[flap.setting].title}{of_app(flap.app)} comes and goes on {flap.seat}",
        "words": flap.sentence,
        "status": own[0].verdict.status if own else "in-norm",
        "severity": own[0].verdict.severity if own else None,
        "distance": own[0].verdict.distance if own else None,
        "because": own[0].verdict.because if own else "",
        "seats": [flap.seat],
        "findings": [_line(finding, tried) for finding in own],
        **_all(own, set()),
    }


def _all(findings: Sequence[OpenFinding], settled: Collection[int]) -> dict[str, Any]:
    """What all of an item's findings are, also those that are not told one by one."""
    settings = dict.fromkeys(finding.verdict.key for finding in findings)
    by_hand = {finding.verdict.key for finding in findings if finding.id not in settled}
    known = catalogue()
    return {
        "ids": [finding.id for finding in findings[:MOST_AT_ONCE]],
        "count": len(findings),
        "settings": [
            {
                "setting": key,
                "title": known[key].title,
                "app": app,
                "remote": known[key].remote or (key, app) not in by_hand,
            }
            for key, app in settings
        ],
    }


def _cause(
    together: list[Group], tried: dict[Place, str], own: dict[int, Verdict], settled: Collection[int]
) -> dict[str, Any]:
    lines = [OpenFinding(f.id, f.seat, own.get(f.id, f.verdict)) for f in _lines_of(together)]
    verdict = lines[0].verdict
    return {
        "kind": "cause",
        "title": title_of(together),
        "status": verdict.status,
        "severity": verdict.severity,
        "distance": verdict.distance,
        "words": in_words(verdict) if len(together) == 1 else _titles(together),
        "because": verdict.because if len(together) == 1 else "",
        "seats": sorted({seat for group in together for seat in group.seats}),
        "findings": [_line(finding, tried) for finding in lines],
        **_all([finding for group in together for finding in group.findings], settled),
    }


def _titles(together: list[Group]) -> str:
    """`Effects of Corrow, Held back of Plinthe`: what stands together, in a line."""
    verdicts = [group.findings[0].verdict for group in together]
    names = [f"{catalogue()[v.setting].title}{of_app(v.app)}" for v in verdicts]
    return ", ".join(dict.fromkeys(names))


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
            "title": f"To be approved: {rollout.title}",
            "words": f"{rollout.created_by.username} planned it; somebody else has to let it begin",
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


def _silence(silent: Sequence[tuple[str, dt.datetime]]) -> list[dict[str, Any]]:
    """One by one while they are few; a house that falls silent is one thing."""
    if len(silent) <= FEW:
        return [_silent(name, seen) for name, seen in silent]
    last = max(seen for _, seen in silent)
    together = _silent("", last)
    names = [name for name, _ in silent]
    return [{**together, "title": f"{opening(counted(len(names), 'seat'))} are silent", "seats": names}]


def _silent(name: str, seen: dt.datetime) -> dict[str, Any]:
    return {
        "kind": "silent",
        "title": f"{name} is silent",
        "words": "its agent has not been heard; what is shown of it is its last survey",
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
            "title": f"A waiver ends: {waiver_subject(waiver)}",
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


def _moved(since: dt.datetime, coming: set[Place]) -> tuple[int, int]:
    """How many seats left the standard since then, and how many came back to it; what comes and goes is told apart."""
    wanting = Q(findings__waiver=None)
    for seat, setting, app in coming:
        wanting &= ~Q(name=seat, findings__setting=setting, findings__app=app or "")
    then = Q(findings__opened_at__lte=since) & (Q(findings__closed_at=None) | Q(findings__closed_at__gt=since))
    counted = Seat.objects.active().annotate(
        before=Count("findings", filter=wanting & then),
        now=Count("findings", filter=wanting & Q(findings__closed_at=None)),
    )
    left = counted.filter(before=0, now__gt=0).count()
    # A seat that went off norm and came back within the span came back too.
    back = counted.filter(wanting, now=0, findings__closed_at__gt=since).distinct().count()
    return left, back
