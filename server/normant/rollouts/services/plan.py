"""The plan that settles findings: which bytes change on which seat."""

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import groupby

import msgspec

from normant.findings.models import Finding
from normant.seats.views_of import latest_surveys, register_of
from normant.standards.current import current_judge, dialects, packages, templates
from normant_core.catalogue import catalogue
from normant_core.drift import Judge, Verdict, View
from normant_core.plan import Means, SeatPlan, plan_seat
from normant_core.survey import Survey
from normant_core.templates import fitting


def plan(findings: Iterable[Finding]) -> list[SeatPlan]:
    """One plan for each seat, in order of name; findings come with their seat, sorted by it."""
    told = list(findings)
    of_project = any(catalogue()[finding.setting].scope == "project" for finding in told)
    means = Means(dialects(), packages(), templates() if of_project else ())
    judge = current_judge() if of_project else None
    surveys = latest_surveys({finding.seat_id for finding in told})
    by_seat = groupby(told, key=lambda finding: finding.seat_id)
    return [_seat_plan(list(found), surveys[seat], means, judge) for seat, found in by_seat]


def digest(plans: Sequence[SeatPlan]) -> str:
    """What somebody looked at: another digest means that the plan is another one by now."""
    return hashlib.sha256(msgspec.json.encode(plans)).hexdigest()


def _seat_plan(findings: list[Finding], survey: Survey, means: Means, judge: Judge | None) -> SeatPlan:
    seat = findings[0].seat
    verdicts = [msgspec.convert(finding.verdict, Verdict) for finding in findings]
    natives = {(r.setting, r.app): r.native for r in survey.readings if r.native}
    if judge:
        means = replace(means, templates=fitting(means.templates, judge, View.of(survey, register_of(seat))))
    return plan_seat(seat.name, verdicts, facts=survey.facts, natives=natives, means=means)
