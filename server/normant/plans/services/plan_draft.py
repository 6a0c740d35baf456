"""What it would take to bring the house to an edition that nobody has published yet."""

from normant.common.problems import Problem
from normant.findings.resident import resident
from normant.seats.models import Seat
from normant_core.house.impact import wanting
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge, Verdict
from normant_core.plan.plan import SeatPlan
from normant_core.standard.parse import parse_standard

from .plan import plan_verdicts

MOST_READINGS = 20_000


def plan_draft(text: str, *, rounder: bool = False) -> list[SeatPlan]:
    """A plan for each seat of what this text would want, and the edition in force does not, or otherwise.

    Raises DocumentError with the text's faults, Problem where it is more than anybody could look at.
    """
    judge = Judge(parse_standard(text))
    by_seat = dict[str, list[Verdict]]()
    with resident.standing() as before, resident.house() as house:
        wanted = wanting(before, Standing(house, judge, before))
        if (many := sum(map(len, wanted.values()))) > MOST_READINGS:
            raise Problem(422, "Too much", f"{many:,} settings; a plan can have at most {MOST_READINGS:,}")
        for row, keys in wanted.items():
            view = house.view(row)
            verdicts = (judge.explain(view, setting, app) for setting, app in sorted(keys, key=str))
            by_seat[view.seat.name] = [verdict for verdict in verdicts if verdict and verdict.status == "off-norm"]
    seats = Seat.objects.active().filter(name__in=by_seat).order_by("name")
    return plan_verdicts([(seat, by_seat[seat.name]) for seat in seats], lambda: judge, rounder=rounder)


def places_of(plans: list[SeatPlan]) -> list[list[str]]:
    """What plans are about, as kept plans hold it: seat, setting, application."""
    changed = [[made.seat, change.setting, change.app or ""] for made in plans for change in made.changes]
    left = [[made.seat, left_out.setting, left_out.app or ""] for made in plans for left_out in made.left]
    return sorted(changed + left)
