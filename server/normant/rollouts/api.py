"""Rollouts: plan, start, watch, halt, put back."""

from typing import Annotated, Any, Literal

import msgspec
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import AwareDatetime, Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.findings.reading import MOST_AT_ONCE, open_findings
from normant.orders.schemas import OrderedOut
from normant.orders.services.survey_now import survey_now
from normant.plans.schemas import AgainOut, PlanOut, SeatPlanOut
from normant.plans.services.order_seats import order_object, order_seats
from normant.plans.services.plan import digest, plan
from normant.plans.terms import TermsIn
from normant.seats.visible import seat_or_404

from .again import again
from .lasting import stayed_put
from .models import Rollout
from .objects import rollout_object, rollout_row
from .preflight import in_the_way
from .report_pages import as_kind
from .schemas import MineOut, RolloutOut, RolloutRowOut, StartedOut, StayedOut
from .seat_plans import seat_plans
from .services.answer import go_ahead, leave_out, object_to, put_off
from .services.approve import approve
from .services.ask import ask_at
from .services.start import start
from .services.stop import begin_now, go_on, halt, put_back, resume, retry

router = Router(tags=["rollouts"])
APPROVES = Needs(Permission.CORRECT, in_person=True)
REPORT_TYPES = {
    "html": "text/html; charset=utf-8",
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
    "json": "application/json",
}


class PlanIn(Schema):
    """Findings to settle, by id, and on which terms."""

    findings: list[int] = Field(min_length=1, max_length=MOST_AT_ONCE)
    terms: TermsIn = TermsIn()


class PutBackIn(Schema):
    """On which seats; none named is all."""

    seats: list[Annotated[str, Field(max_length=64)]] = Field(default=[], max_length=MOST_AT_ONCE)


class AskIn(Schema):
    """An application to close (empty: the machine starts again), and why."""

    app: str = Field("", max_length=64)
    why: str = Field("", max_length=500)


class PutOffIn(Schema):
    """Until when."""

    until: AwareDatetime


class WhyIn(Schema):
    """Why."""

    why: str = Field(min_length=1, max_length=300, pattern=r"\S")


class ObjectionIn(Schema):
    """Why, and whether a waiver is asked for."""

    why: str = Field(min_length=1, max_length=500, pattern=r"\S")
    asks_waiver: bool = False


class SeatsIn(Schema):
    """Some seats of a rollout."""

    seats: list[Annotated[str, Field(max_length=64)]] = Field(min_length=1, max_length=MOST_AT_ONCE)


class StartIn(PlanIn):
    """`seen` is the digest of the plan that was reviewed."""

    seen: str
    title: str = Field("", max_length=200)


@router.post("/rollouts/plan", response=PlanOut, operation_id="plan", auth=Needs(Permission.CORRECT))
def plan_rollout(request: HttpRequest, given: PlanIn) -> Any:
    """What correcting these findings would change, byte for byte, and in which order of the seats."""
    findings = open_findings(given.findings)
    terms = given.terms.terms()
    plans = plan(findings, rounder=terms.rounder)
    ordered = order_object(order_seats(plans, terms))
    way = in_the_way(plans)
    of_seat: dict[str, list[int]] = {}
    for finding in findings:
        of_seat.setdefault(finding.seat.name, []).append(finding.pk)
    seats = [
        {
            **msgspec.to_builtins(made),
            "closes": made.closes,
            "restarts": made.restarts,
            "findings": of_seat[made.seat],
            "in_the_way": way.get(made.seat, []),
        }
        for made in plans
    ]
    return plain({"digest": digest(plans), "seats": seats, "order": ordered})


@router.post("/rollouts", response=StartedOut, operation_id="start_rollout", auth=Needs(Permission.CORRECT))
def start_rollout(request: HttpRequest, given: StartIn) -> Any:
    """Start a rollout from the plan that was reviewed."""
    findings, terms = open_findings(given.findings), given.terms.terms()
    rollout = start(person(request), findings, seen=given.seen, title=given.title, terms=terms)
    return plain({"id": rollout.pk})


@router.get("/rollouts", response=ListOf[RolloutRowOut], operation_id="rollouts", auth=Needs(Permission.SEE_HOUSE))
def rollouts(request: HttpRequest, page: Query[Page]) -> Any:
    """Every rollout, newest first."""
    rows = Rollout.objects.select_related("created_by").prefetch_related("legs")
    return answer((rollout_row(r) for r in rows[page.start : page.end]), total=Rollout.objects.count())


@router.get("/stayed", response=ListOf[StayedOut], operation_id="stayed", auth=Needs(Permission.SEE_HOUSE))
def lasting_values(request: HttpRequest, rollout: int | None = None) -> Any:
    """Whether what rollouts set (or one of them did) stayed so after 1, 7 and 30 days, and who changes it back."""
    return answer(stayed_put(rollout))


@router.get("/rollouts/{number}", response=RolloutOut, operation_id="rollout", auth=Needs(Permission.SEE_HOUSE))
def rollout(request: HttpRequest, number: int) -> Any:
    """One rollout with its legs."""
    return _rollout_object(request, number)


@router.get("/rollouts/{number}/again", response=AgainOut, operation_id="plan_again", auth=Needs(Permission.SEE_HOUSE))
def plan_again(request: HttpRequest, number: int) -> Any:
    """An earlier rollout as a plan: what of it is off norm by now."""
    return plain(again(_rollout(number)))


@router.get(
    "/rollouts/{number}/seats/{name}",
    response=SeatPlanOut,
    operation_id="planned_on_seat",
    auth=Needs(Permission.SEE_HOUSE),
)
def planned_on_seat(request: HttpRequest, number: int, name: str) -> Any:
    """What this rollout changes on one of its seats, native before and after."""
    leg = row_or_404(_rollout(number).legs.filter(seat__name=name), "seat", f"{name} is not in rollout {number}")
    return plain(leg.plan)


@router.get("/rollouts/{number}/report", response={200: None}, operation_id="report", auth=Needs(Permission.SEE_HOUSE))
def report(
    request: HttpRequest,
    number: int,
    kind: Annotated[Literal["html", "pdf", "csv", "json"], Query(alias="form")] = "html",
) -> Any:
    """The report of a rollout that has ended; as JSON, the very bytes whose digest the ledger holds."""
    latest = _rollout(number).reports.first()
    if latest is None:
        raise Problem(409, "No report yet", "the report is created when the rollout has ended")
    response = HttpResponse(as_kind(bytes(latest.body), latest.digest, kind), content_type=REPORT_TYPES[kind])
    response["Content-Disposition"] = (
        f'{"inline" if kind in ("html", "pdf") else "attachment"}; filename="rollout-{number}.{kind}"'
    )
    return response


@router.post("/rollouts/{number}/approve", response=RolloutOut, operation_id="approve", auth=APPROVES)
def approve_rollout(request: HttpRequest, number: int) -> Any:
    """Approve a rollout that another person planned."""
    approve(_rollout(number), person(request))
    return _rollout_object(request, number)


@router.get("/seats/{name}/planned", response=MineOut, operation_id="planned_here", auth=Needs(Permission.SEE_SEATS))
def planned_here(request: HttpRequest, name: str) -> Any:
    """Return the planned and the latest changes on a seat, with reasons, for its editor."""
    return plain(seat_plans(seat_or_404(name, person(request))))


@router.post(
    "/rollouts/{number}/seats/{name}/put-off",
    response=MineOut,
    operation_id="put_off",
    auth=Needs(Permission.ANSWER),
)
def put_off_turn(request: HttpRequest, number: int, name: str, given: PutOffIn) -> Any:
    """Let the seat's turn come later, within the rollout's limits."""
    seat = seat_or_404(name, person(request))
    put_off(_rollout(number), seat.name, person(request), given.until)
    return plain(seat_plans(seat))


@router.post(
    "/rollouts/{number}/seats/{name}/object",
    response=MineOut,
    operation_id="object_to",
    auth=Needs(Permission.ANSWER),
)
def object_to_turn(request: HttpRequest, number: int, name: str, given: ObjectionIn) -> Any:
    """Object to the changes on your seat, or request a waiver: a supervisor decides."""
    seat = seat_or_404(name, person(request))
    object_to(_rollout(number), seat.name, person(request), given.why, asks_waiver=given.asks_waiver)
    return plain(seat_plans(seat))


@router.post(
    "/rollouts/{number}/seats/{name}/go-ahead",
    response=RolloutOut,
    operation_id="go_ahead",
    auth=Needs(Permission.CORRECT),
)
def go_ahead_on_seat(request: HttpRequest, number: int, name: str) -> Any:
    """Continue on a seat at once, despite the editor's objection or postponement."""
    go_ahead(_rollout(number), name, person(request))
    return _rollout_object(request, number)


@router.post(
    "/rollouts/{number}/seats/{name}/leave-out",
    response=RolloutOut,
    operation_id="leave_out",
    auth=Needs(Permission.CORRECT),
)
def leave_seat_out(request: HttpRequest, number: int, name: str) -> Any:
    """Go on without this seat."""
    leave_out(_rollout(number), name, person(request))
    return _rollout_object(request, number)


@router.post("/rollouts/{number}/halt", response=RolloutOut, operation_id="halt", auth=Needs(Permission.CORRECT))
def halt_rollout(request: HttpRequest, number: int) -> Any:
    """Halt a rollout: withdraw the seats that have not started."""
    halt(_rollout(number), person(request).username)
    return _rollout_object(request, number)


@router.post("/rollouts/{number}/resume", response=RolloutOut, operation_id="resume", auth=Needs(Permission.CORRECT))
def resume_rollout(request: HttpRequest, number: int) -> Any:
    """Resume a halted rollout with the seats that have not started."""
    resume(_rollout(number), person(request))
    return _rollout_object(request, number)


@router.post("/rollouts/{number}/begin", response=RolloutOut, operation_id="begin_now", auth=Needs(Permission.CORRECT))
def begin_rollout_now(request: HttpRequest, number: int, given: WhyIn) -> Any:
    """Start a rollout before its planned time, with a reason."""
    begin_now(_rollout(number), person(request), given.why.strip())
    return _rollout_object(request, number)


@router.post("/rollouts/{number}/go-on", response=RolloutOut, operation_id="go_on", auth=Needs(Permission.CORRECT))
def go_on_with_rollout(request: HttpRequest, number: int) -> Any:
    """Start the next wave now, without waiting."""
    go_on(_rollout(number), person(request))
    return _rollout_object(request, number)


@router.post(
    "/rollouts/{number}/put-back", response=StartedOut, operation_id="put_back", auth=Needs(Permission.CORRECT)
)
def put_back_rollout(request: HttpRequest, number: int, given: PutBackIn | None = None) -> Any:
    """Restore what this rollout changed, on all of its seats or on some."""
    return plain({"id": put_back(_rollout(number), person(request), given.seats if given else ()).pk})


@router.post("/rollouts/{number}/retry", response=RolloutOut, operation_id="retry", auth=Needs(Permission.CORRECT))
def retry_seats(request: HttpRequest, number: int, given: SeatsIn) -> Any:
    """Once more on these seats, which stopped before anything was changed."""
    retry(_rollout(number), person(request), given.seats)
    return _rollout_object(request, number)


@router.post("/seats/{name}/survey", response=OrderedOut, operation_id="survey_now", auth=Needs(Permission.CORRECT))
def survey_seat_now(request: HttpRequest, name: str) -> Any:
    """Ask the seat for a survey now."""
    order = survey_now(seat_or_404(name, person(request)), person(request))
    return plain({"order": str(order.pk)})


@router.post("/seats/{name}/ask", response=OrderedOut, operation_id="ask_at", auth=Needs(Permission.CORRECT))
def ask_at_seat(request: HttpRequest, name: str, given: AskIn) -> Any:
    """Ask the editor to close an application, or (if none is named) to restart the machine. Never forced."""
    order = ask_at(seat_or_404(name, person(request)), person(request), app=given.app, why=given.why)
    return plain({"order": str(order.pk)})


def _rollout_object(request: HttpRequest, number: int) -> Any:
    """The rollout as it is now, for whoever asks."""
    return plain(rollout_object(_rollout(number), person(request)))


def _rollout(number: int) -> Rollout:
    return row_or_404(
        Rollout.objects.select_related("created_by", "approved_by", "of").filter(pk=number),
        "rollout",
        f"there is no rollout {number}",
    )
