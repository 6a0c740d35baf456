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
from normant_core.judging.groups import cause_key
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
    settling = _Settling(seat, judge)
    for step in steps:
        settling.take(step)
    settling.write()
    tell("seat", seat.name)


class _Settling:
    """The findings of a seat while it is judged, survey by survey: what is written in the end is the same whether each
    was judged as it came or all of them together."""

    def __init__(self, seat: Seat, judge: Judge) -> None:
        self._seat, self._judge = seat, judge
        self._waivers = waivers_at(timezone.now())
        self._open = {(f.setting, f.app or None): f for f in Finding.objects.open().filter(seat=seat)}
        self._made = list[Finding]()
        self._touched = dict[int, Finding]()  # kept before, and another by now
        self._verdicts = list[Verdict]()

    def take(self, step: Step) -> None:
        """Judge the seat as it was at a step."""
        verdicts = self._judge.verdicts(step.view, every=True)
        off = {verdict.key: verdict for verdict in verdicts if verdict.status == "off-norm"}
        for key in self._open.keys() - off.keys():
            self._close(key, step)
        for key, verdict in off.items():
            if key not in self._open:
                self._made.append(self._opened(verdict, step))
        register = step.view.seat
        self._verdicts = waived(verdicts, register, self._waivers)
        for verdict in self._verdicts:
            if finding := self._open.get(verdict.key):
                covered = waiver_of(self._waivers, register, verdict.key) if verdict.status == "waived" else None
                self._bring_up_to_date(finding, verdict, covered.id if covered else None)

    def write(self) -> None:
        """Keep what came of it, and how the seat stands now."""
        touched = list(self._touched.values())
        Finding.objects.bulk_update(touched, ["closed_at", "closed_by", "verdict", "cause", "severity", "waiver"])
        Finding.objects.bulk_create(self._made)
        if any(f.severity == "must" and f.told_at is None and f.closed_at is None for f in (*self._made, *touched)):
            tell_musts_later()
        self._seat.levels = [msgspec.to_builtins(level) for level in levels(self._verdicts)]
        self._seat.off_norm = sum(verdict.status == "off-norm" for verdict in self._verdicts)
        self._seat.save(update_fields=["levels", "off_norm"])

    def _opened(self, verdict: Verdict, step: Step) -> Finding:
        finding = Finding(
            seat=self._seat,
            setting=verdict.setting,
            app=verdict.app or "",
            severity=verdict.severity,
            verdict=msgspec.to_builtins(verdict),
            cause=cause_key(verdict),
            opened_at=step.at,
            opened_by=step.by(verdict.key),
        )
        self._open[verdict.key] = finding
        return finding

    def _close(self, key: Key, step: Step) -> None:
        finding = self._open.pop(key)
        finding.closed_at, finding.closed_by = max(step.at, finding.opened_at), step.by(key)  # clocks differ
        self._touch(finding)

    def _bring_up_to_date(self, finding: Finding, verdict: Verdict, waiver: int | None) -> None:
        plain = msgspec.json.decode(msgspec.json.encode(verdict))
        if (finding.verdict, finding.waiver_id) != (plain, waiver):
            finding.verdict, finding.severity, finding.waiver_id = plain, verdict.severity, waiver
            finding.cause = cause_key(verdict)
            self._touch(finding)

    def _touch(self, finding: Finding) -> None:
        if finding.pk:
            self._touched[finding.pk] = finding
