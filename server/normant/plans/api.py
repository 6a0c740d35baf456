"""Plans that are kept: by name, opened again, made of a draft."""

from typing import Annotated, Any

import msgspec
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.common.seen import Seen
from normant.findings.reading import MOST_AT_ONCE, open_findings

from .models import KeptPlan
from .opened import kept_plans, opened
from .schemas import DraftPlanOut, KeptPlanOut, OpenedPlanOut
from .services.keep_plan import Wanted, forget_plan, keep_plan
from .services.order_seats import order_object, order_seats
from .services.plan_draft import places_of, plan_draft
from .terms import TermsIn

router = Router(tags=["rollouts"])


class KeepPlanIn(Schema):
    """A plan and its name."""

    name: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]
    findings: list[int] = Field(min_length=1, max_length=MOST_AT_ONCE)
    terms: TermsIn = TermsIn()

    def wanted(self) -> Wanted:
        """What it is to settle."""
        places = [(finding.seat.name, finding.setting, finding.app) for finding in open_findings(self.findings)]
        return Wanted(places, self.terms.terms())


class ChangePlanIn(KeepPlanIn):
    """Another one in place of a plan that was read."""

    seen: Seen


class DraftPlanIn(Schema):
    """The text of an edition that is not in force, and on which terms."""

    text: str = Field(max_length=400_000)
    terms: TermsIn = TermsIn()


class KeepDraftPlanIn(DraftPlanIn):
    """With the name under which it is kept."""

    name: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]


@router.get("/plans", response=ListOf[KeptPlanOut], operation_id="plans", auth=Needs(Permission.SEE_HOUSE))
def plans(request: HttpRequest) -> Any:
    """Every kept plan."""
    return answer(kept_plans())


@router.post("/plans", response=OpenedPlanOut, operation_id="keep_plan", auth=Needs(Permission.CORRECT))
def keep(request: HttpRequest, given: KeepPlanIn) -> Any:
    """Keep a plan by name."""
    return plain(opened(keep_plan(person(request), given.name.strip(), given.wanted())))


@router.post("/plans/draft", response=DraftPlanOut, operation_id="plan_draft", auth=Needs(Permission.CORRECT))
def plan_of_draft(request: HttpRequest, given: DraftPlanIn) -> Any:
    """Plan the corrections that this text would need once it is published."""
    terms = given.terms.terms()
    plans = plan_draft(given.text, rounder=terms.rounder)
    seats = [
        {**msgspec.to_builtins(plan_row), "closes": plan_row.closes, "restarts": plan_row.restarts}
        for plan_row in plans
    ]
    return plain({"seats": seats, "order": order_object(order_seats(plans, terms))})


@router.post(
    "/plans/draft/keep", response=OpenedPlanOut, operation_id="keep_plan_of_draft", auth=Needs(Permission.CORRECT)
)
def keep_of_draft(request: HttpRequest, given: KeepDraftPlanIn) -> Any:
    """Keep it by name: opened once the text is published, it settles what that opened."""
    places = places_of(plan_draft(given.text))
    if not places:
        raise Problem(422, "Nothing to do", "this text requires nothing that the current edition does not require")
    return plain(opened(keep_plan(person(request), given.name.strip(), Wanted(places, given.terms.terms()))))


@router.get("/plans/{number}", response=OpenedPlanOut, operation_id="open_plan", auth=Needs(Permission.SEE_HOUSE))
def open_plan(request: HttpRequest, number: int) -> Any:
    """A kept plan, with what it would settle now."""
    kept_plan = row_or_404(
        KeptPlan.objects.select_related("kept_by").filter(pk=number), "plan", f"there is no plan {number}"
    )
    return plain(opened(kept_plan))


@router.put("/plans/{number}", response=OpenedPlanOut, operation_id="change_plan", auth=Needs(Permission.CORRECT))
def change(request: HttpRequest, number: int, given: ChangePlanIn) -> Any:
    """Keep another plan in its place."""
    plan_row = keep_plan(person(request), given.name.strip(), given.wanted(), number=number, seen=given.seen)
    return plain(opened(plan_row))


@router.delete("/plans/{number}", response={204: None}, operation_id="forget_plan", auth=Needs(Permission.CORRECT))
def forget(request: HttpRequest, number: int) -> HttpResponse | Status[None]:
    """It is kept no more."""
    forget_plan(number, person(request))
    return Status(204, None)
