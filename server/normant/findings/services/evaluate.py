"""Judging a seat against the standard in force: findings opened, kept or closed, levels drawn."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import msgspec
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.seats.models import Presence, Reading, Seat, Survey
from normant.seats.views_of import entered_by_hand, latest_survey, merged
from normant_core.house.waivers import waived, waiver_of
from normant_core.judging.judge import Judge, Verdict, View
from normant_core.judging.levels import levels
from normant_core.seat.survey import Key, decode

from ..later import tell_musts_later
from ..models import Finding
from ..waiving import waivers_at


@dataclass(frozen=True, slots=True)
class Step:
    """A seat as it was at a moment, who moved which reading, and what moved all others."""

    at: dt.datetime
    view: View
    moved: Mapping[Key, str]
    otherwise: str

    def by(self, key: Key) -> str:
        """Who is behind a change of a finding."""
        return self.moved.get(key, self.otherwise)


@transaction.atomic
def evaluate(seat: Seat, judge: Judge, by: str = "standard") -> None:
    """Bring the seat's findings in line with the standard, which changed, or with what it wants of this seat now.

    `by` is who is behind that: theirs, where somebody entered a reading.
    """
    presence = Presence.objects.select_for_update().filter(seat=seat).first()
    steps = list(_news(seat, presence)) if presence else []
    if survey := latest_survey(seat):
        now = timezone.now()
        steps.append(Step(now, merged(seat, survey, entered_by_hand(seat), now), {}, by))
    _settle(seat, judge, steps)
    _judged(presence)


@transaction.atomic
def judge_news(seat: Seat, judge: Judge | None) -> None:
    """Judge every survey of the seat that nobody has judged yet, each as of its own moment."""
    presence = Presence.objects.select_for_update().filter(seat=seat).exclude(unjudged_since=None).first()
    if presence is None:
        return
    steps = list(_news(seat, presence)) if judge else []
    if judge and steps:
        _settle(seat, judge, steps)
    _judged(presence)
    tell("seat", seat.name)


def _judged(presence: Presence | None) -> None:
    if presence and presence.unjudged_since:
        presence.unjudged_since = None
        presence.save(update_fields=["unjudged_since"])


def _news(seat: Seat, presence: Presence) -> Iterator[Step]:
    """The surveys that nobody has judged, the oldest first."""
    since = presence.unjudged_since
    if since is None:
        return
    moved: dict[dt.datetime, dict[Key, str]] = defaultdict(dict)
    for reading in Reading.objects.filter(Q(since__gte=since) | Q(until__gte=since), seat=seat).order_by("since"):
        key = (reading.setting, reading.app or None)
        if reading.until:
            moved[reading.until].setdefault(key, "theirs")
        moved[reading.since][key] = "ours" if reading.cause == "ours" else "theirs"
    entered, now = entered_by_hand(seat), timezone.now()
    for survey in Survey.objects.filter(seat=seat, taken_at__gte=since).order_by("taken_at"):
        at = survey.taken_at
        view = merged(seat, decode(bytes(survey.body)), entered, at)
        yield Step(min(at, now), view, moved[at], "facts")


def _settle(seat: Seat, judge: Judge, steps: list[Step]) -> None:
    if not steps:
        return
    lock("evaluate", [seat.name])
    open_ = {(f.setting, f.app or None): f for f in Finding.objects.open().filter(seat=seat)}
    made, closed = list[Finding](), list[Finding]()
    for step in steps:
        off = [(o.setting, o.app) for o in judge.judge(step.view) if o.status == "off-norm"]
        for key in open_.keys() - set(off):
            finding = open_.pop(key)
            finding.closed_at, finding.closed_by = max(step.at, finding.opened_at), step.by(key)  # clocks differ
            if finding.pk:
                closed.append(finding)
        for key in off:
            if key not in open_ and (verdict := judge.explain(step.view, *key)):
                open_[key] = _opened(seat, verdict, step)
                made.append(open_[key])
    waivers, register = waivers_at(timezone.now()), steps[-1].view.seat
    verdicts = waived(judge.verdicts(steps[-1].view, every=True), register, waivers)
    by = {v.key: waiver_of(waivers, register, v.key) for v in verdicts if v.status == "waived"}
    numbers = {key: waiver.id for key, waiver in by.items() if waiver}
    staying = [f for v in verdicts if (f := _brought_up_to_date(v, open_.get(v.key), numbers.get(v.key)))]
    Finding.objects.bulk_update(closed, ["closed_at", "closed_by"])
    Finding.objects.bulk_update(staying, ["verdict", "severity", "waiver"])
    Finding.objects.bulk_create(made)
    if any(f.severity == "must" and f.told_at is None for f in (*made, *staying)):
        tell_musts_later()
    seat.levels = [msgspec.to_builtins(level) for level in levels(verdicts)]
    seat.off_norm = sum(verdict.status == "off-norm" for verdict in verdicts)
    seat.save(update_fields=["levels", "off_norm"])
    tell("seat", seat.name)


def _opened(seat: Seat, verdict: Verdict, step: Step) -> Finding:
    return Finding(
        seat=seat,
        setting=verdict.setting,
        app=verdict.app or "",
        severity=verdict.severity,
        verdict=msgspec.to_builtins(verdict),
        opened_at=step.at,
        opened_by=step.by(verdict.key),
    )


def _brought_up_to_date(verdict: Verdict, finding: Finding | None, waiver: int | None) -> Finding | None:
    """The open finding, where it now says something else and was kept before."""
    plain = msgspec.json.decode(msgspec.json.encode(verdict))
    if finding is None or (finding.verdict, finding.waiver_id) == (plain, waiver):
        return None
    finding.verdict, finding.severity, finding.waiver_id = plain, verdict.severity, waiver
    return finding if finding.pk else None
