"""What waits for a second person."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.schemas import ListOf, Moment
from normant.common.seen import Seen

from .models import Proposal
from .services.propose import approve, refuse

router = Router(tags=["proposals"])
LATELY = 50


class ProposedOut(Schema):
    """An act that now waits for a second person."""

    proposal: int


class ProposalRowOut(Schema):
    """An act, as people read it, and what was decided; `approved` is null as long as it waits."""

    id: int
    kind: str
    subject: str
    lines: list[str]
    seen: str
    needs_administrator: bool
    made_by: str
    made_at: Moment
    decided_by: str | None
    decided_at: Moment | None
    approved: bool | None
    reason: str


class ApproveIn(Schema):
    """The version that was read."""

    seen: Seen


class RefuseIn(Schema):
    """Why not."""

    reason: Annotated[str, Field(max_length=300)] = ""


@router.get("/proposals", response=ListOf[ProposalRowOut], operation_id="proposals", auth=Needs(Permission.SEE_HOUSE))
def proposals(request: HttpRequest) -> Any:
    """What waits for a second person, and what was decided lately."""
    rows = Proposal.objects.select_related("made_by", "decided_by")
    waiting, decided = rows.filter(decided_at=None), rows.exclude(decided_at=None).order_by("-decided_at")[:LATELY]
    return answer([proposal_object(proposal) for proposal in (*waiting, *decided)])


@router.post(
    "/proposals/{number}/approve",
    response=ProposalRowOut,
    operation_id="approve_proposal",
    auth=Needs(Permission.CORRECT, in_person=True),
)
def approve_it(request: HttpRequest, number: int, given: ApproveIn) -> Any:
    """Carry out what somebody else proposed and you have read."""
    return plain(proposal_object(approve(number, person(request), seen=given.seen)))


@router.post(
    "/proposals/{number}/refuse",
    response=ProposalRowOut,
    operation_id="refuse_proposal",
    auth=Needs(Permission.CORRECT),
)
def refuse_it(request: HttpRequest, number: int, given: RefuseIn) -> Any:
    """Nothing is done."""
    return plain(proposal_object(refuse(number, person(request), reason=given.reason)))


def proposal_object(proposal: Proposal) -> dict[str, Any]:
    """A proposal as the API tells it."""
    names = ("kind", "subject", "lines", "seen", "needs_administrator", "made_at", "decided_at", "approved", "reason")
    fields = {name: getattr(proposal, name) for name in names}
    decided = proposal.decided_by.username if proposal.decided_by else None
    return {"id": proposal.pk, **fields, "made_by": proposal.made_by.username, "decided_by": decided}
