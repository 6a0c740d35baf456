"""The plan that settles findings: which bytes change on which seat."""

import hashlib
from collections.abc import Iterable, Sequence
from itertools import groupby

import msgspec

from normant.findings.models import Finding
from normant.seats.views_of import latest_surveys
from normant.standards.current import dialects, packages
from normant_core.drift import Verdict
from normant_core.plan import Means, SeatPlan, plan_seat
from normant_core.survey import Survey


def plan(findings: Iterable[Finding]) -> list[SeatPlan]:
    """One plan for each seat, in order of name; findings come with their seat, sorted by it."""
    told, means = list(findings), Means(dialects(), packages())
    surveys = latest_surveys({finding.seat_id for finding in told})
    by_seat = groupby(told, key=lambda finding: finding.seat_id)
    return [_seat_plan(list(found), surveys[seat], means) for seat, found in by_seat]


def digest(plans: Sequence[SeatPlan]) -> str:
    """What somebody looked at: another digest means that the plan is another one by now."""
    return hashlib.sha256(msgspec.json.encode(plans)).hexdigest()


def _seat_plan(findings: list[Finding], survey: Survey, means: Means) -> SeatPlan:
    seat = findings[0].seat
    verdicts = [msgspec.convert(finding.verdict, Verdict) for finding in findings]
    natives = {(r.setting, r.app): r.native for r in survey.readings if r.native}
    return plan_seat(seat.name, verdicts, facts=survey.facts, natives=natives, means=means)
