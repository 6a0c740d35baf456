"""The plan that settles findings: which bytes change on which seat."""

import hashlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from itertools import groupby

import msgspec

from normant.dialects.current import dialects
from normant.findings.models import Finding
from normant.packages.current import packages
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys, register_of
from normant.standards.current import current_judge
from normant.templates.current import templates
from normant_core.catalogue.settings import catalogue
from normant_core.judging.judge import Judge, Verdict, View
from normant_core.plan.plan import Means, SeatPlan, plan_seat
from normant_core.plan.templates import fitting


def plan(findings: Iterable[Finding], *, rounder: bool = False) -> list[SeatPlan]:
    """One plan for each seat, in order of name; findings come with their seat, sorted by it.

    `rounder`: sizes that were worked out are set to rounder ones where the norm takes them.
    """
    by_seat = [list(group) for _, group in groupby(findings, key=lambda finding: finding.seat_id)]
    wanted = [(group[0].seat, [msgspec.convert(finding.verdict, Verdict) for finding in group]) for group in by_seat]
    return plan_verdicts(wanted, current_judge, rounder=rounder)


def plan_verdicts(
    wanted: Iterable[tuple[Seat, list[Verdict]]], judge_of: Callable[[], Judge | None], *, rounder: bool = False
) -> list[SeatPlan]:
    """The same for verdicts, also of an edition that is not in force: the judge says what would be in norm."""
    listed = list(wanted)
    of_project = any(catalogue()[verdict.setting].scope == "project" for _, verdicts in listed for verdict in verdicts)
    means = Means(dialects(), packages(), templates() if of_project else (), rounder)
    judge = judge_of() if means.templates else None
    surveys = latest_surveys({seat.pk for seat, _ in listed})
    plans = []
    for seat, verdicts in listed:
        survey = surveys[seat.pk]
        fit = means
        if judge:
            fit = replace(means, templates=fitting(means.templates, judge, View.of(survey, register_of(seat))))
        natives = {(r.setting, r.app): r.native for r in survey.readings if r.native}
        plans.append(plan_seat(seat.name, verdicts, facts=survey.facts, natives=natives, means=fit))
    return plans


def digest(plans: Sequence[SeatPlan]) -> str:
    """What somebody looked at: another digest means that the plan is another one by now."""
    return hashlib.sha256(msgspec.json.encode(plans)).hexdigest()
