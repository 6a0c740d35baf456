"""The plan that settles findings: which bytes change on which seat."""

import hashlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from itertools import groupby

import msgspec

from normant.findings.models import Finding
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys, register_of
from normant.standards.current import current_judge, dialects, packages, templates
from normant_core.catalogue import catalogue
from normant_core.drift import Judge, Verdict, View
from normant_core.plan import Means, SeatPlan, plan_seat
from normant_core.survey import Survey
from normant_core.templates import fitting


def plan(findings: Iterable[Finding]) -> list[SeatPlan]:
    """One plan for each seat, in order of name; findings come with their seat, sorted by it."""
    by_seat = [list(found) for _, found in groupby(findings, key=lambda finding: finding.seat_id)]
    wanted = [(found[0].seat, [msgspec.convert(one.verdict, Verdict) for one in found]) for found in by_seat]
    return plan_verdicts(wanted, current_judge)


def plan_verdicts(wanted: Iterable[tuple[Seat, list[Verdict]]], judge_of: Callable[[], Judge | None]) -> list[SeatPlan]:
    """The same for verdicts, also of an edition that is not in force: the judge says what would be in norm."""
    told = list(wanted)
    of_project = any(catalogue()[one.setting].scope == "project" for _, verdicts in told for one in verdicts)
    means = Means(dialects(), packages(), templates() if of_project else ())
    judge = judge_of() if means.templates else None
    surveys = latest_surveys({seat.pk for seat, _ in told})
    return [_seat_plan(seat, verdicts, surveys[seat.pk], means=means, judge=judge) for seat, verdicts in told]


def digest(plans: Sequence[SeatPlan]) -> str:
    """What somebody looked at: another digest means that the plan is another one by now."""
    return hashlib.sha256(msgspec.json.encode(plans)).hexdigest()


def _seat_plan(seat: Seat, verdicts: list[Verdict], survey: Survey, *, means: Means, judge: Judge | None) -> SeatPlan:
    natives = {(r.setting, r.app): r.native for r in survey.readings if r.native}
    if judge:
        means = replace(means, templates=fitting(means.templates, judge, View.of(survey, register_of(seat))))
    return plan_seat(seat.name, verdicts, facts=survey.facts, natives=natives, means=means)
