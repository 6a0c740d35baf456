"""Rehearsals: a plan that is tried on its seats, and nothing is changed."""

from typing import Any

from django.http import HttpRequest
from ninja import Router

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.rows import row_or_404
from normant.findings.reading import open_findings
from normant.findings.schemas import FindingsIn

from .models import Rehearsal
from .rehearsals import rehearsal_object
from .schemas import RehearsalOut
from .services.rehearse import rehearse

router = Router(tags=["rollouts"])


class RehearseIn(FindingsIn):
    """Findings that a plan settles, and whether with the rounder sizes that it offers."""

    rounder: bool = False


@router.post("/rehearsals", response=RehearsalOut, operation_id="rehearse", auth=Needs(Permission.CORRECT))
def try_plan(request: HttpRequest, given: RehearseIn) -> Any:
    """Try a plan on its seats: every check, and no write."""
    return plain(rehearsal_object(rehearse(person(request), open_findings(given.findings), rounder=given.rounder)))


@router.get("/rehearsals/{number}", response=RehearsalOut, operation_id="rehearsal", auth=Needs(Permission.SEE_HOUSE))
def rehearsal(request: HttpRequest, number: int) -> Any:
    """What the seats said so far."""
    rehearsal_row = row_or_404(
        Rehearsal.objects.select_related("made_by").filter(pk=number), "rehearsal", f"there is no rehearsal {number}"
    )
    return plain(rehearsal_object(rehearsal_row))
