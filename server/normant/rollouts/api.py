"""Rollouts: plan, start, watch, halt, put back."""

from typing import Any

import msgspec
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem
from normant.common.schemas import ListOf
from normant.findings.models import Finding
from normant.ledger.services.record import record
from normant.seats.visible import seat_or_404

from .models import Rollout
from .round import MOST_AT_ONCE, round_now
from .schemas import OrderedOut, PlanOut, RolloutOut, RolloutRowOut, RoundOut, StartedOut
from .services.issue import issue_survey_now
from .services.plan import digest, plan
from .services.start import start
from .services.stop import halt, put_back
from .told import rollout_object, rollout_row

router = Router(tags=["rollouts"])


class PlanIn(Schema):
    """Findings to settle, by id."""

    findings: list[int] = Field(min_length=1, max_length=MOST_AT_ONCE)


class StartIn(PlanIn):
    """`seen` is the digest of the plan that was looked at."""

    seen: str
    title: str = Field("", max_length=200)


@router.get("/round", response=RoundOut, operation_id="round", auth=Needs(Permission.SEE_HOUSE))
def the_round(request: HttpRequest) -> Any:
    """What needs a decision now, most useful first."""
    return plain(round_now())


@router.post("/rollouts/plan", response=PlanOut, operation_id="plan", auth=Needs(Permission.CORRECT))
def plan_rollout(request: HttpRequest, given: PlanIn) -> Any:
    """What correcting these findings would change, byte for byte."""
    plans = plan(_open(given.findings))
    seats = [{**msgspec.to_builtins(made), "closes": made.closes} for made in plans]
    return plain({"digest": digest(plans), "seats": seats})


@router.post("/rollouts", response=StartedOut, operation_id="start_rollout", auth=Needs(Permission.CORRECT))
def start_rollout(request: HttpRequest, given: StartIn) -> Any:
    """Start the plan that was looked at."""
    rollout = start(person(request), _open(given.findings), seen=given.seen, title=given.title)
    return plain({"id": rollout.pk})


@router.get("/rollouts", response=ListOf[RolloutRowOut], operation_id="rollouts", auth=Needs(Permission.SEE_HOUSE))
def rollouts(request: HttpRequest, page: Query[Page]) -> Any:
    """Every rollout, newest first."""
    found = Rollout.objects.select_related("created_by").prefetch_related("legs")
    return answer((rollout_row(r) for r in found[page.start : page.end]), total=Rollout.objects.count())


@router.get("/rollouts/{number}", response=RolloutOut, operation_id="rollout", auth=Needs(Permission.SEE_HOUSE))
def rollout(request: HttpRequest, number: int) -> Any:
    """One rollout with its legs."""
    return plain(rollout_object(_rollout(number)))


@router.post("/rollouts/{number}/halt", response=RolloutOut, operation_id="halt", auth=Needs(Permission.CORRECT))
def halt_rollout(request: HttpRequest, number: int) -> Any:
    """Withdraw what has not begun."""
    halt(_rollout(number), person(request))
    return plain(rollout_object(_rollout(number)))


@router.post(
    "/rollouts/{number}/put-back", response=StartedOut, operation_id="put_back", auth=Needs(Permission.CORRECT)
)
def put_back_rollout(request: HttpRequest, number: int) -> Any:
    """Restore what this rollout changed."""
    return plain({"id": put_back(_rollout(number), person(request)).pk})


@router.post("/seats/{name}/survey", response=OrderedOut, operation_id="survey_now", auth=Needs(Permission.CORRECT))
def survey_now(request: HttpRequest, name: str) -> Any:
    """Ask the seat for a survey now."""
    seat = seat_or_404(name, person(request))
    order = issue_survey_now(seat)
    record(person(request).username, "survey now", seat.name, order=str(order.pk))
    return plain({"order": str(order.pk)})


def _open(ids: list[int]) -> list[Finding]:
    found = list(Finding.objects.open().filter(pk__in=ids).select_related("seat"))
    if missing := {*ids} - {finding.pk for finding in found}:
        told = f"{len(missing)} of these findings are closed by now: look again"
        raise Problem(409, "Findings closed", told, closed=sorted(missing))
    return found


def _rollout(number: int) -> Rollout:
    found = Rollout.objects.select_related("created_by", "of").filter(pk=number).first()
    if found is None:
        raise Problem(404, "No such rollout", f"there is no rollout {number}")
    return found
