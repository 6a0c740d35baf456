"""Standing care: what is in force and what it did, what a text would do, and stopping a sentence."""

from typing import Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Status

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.clearings.schemas import BegunOut
from normant.clearings.services.begin_clearing import begin_clearing
from normant.common.lists import answer, plain
from normant.common.problems import Problem
from normant.common.schemas import ListOf
from normant.standards.current import current_judge
from normant_core.standard.parse import parse_standard

from .objects import care_objects, impact_of
from .schemas import CareImpactOut, CareTextIn, LookCareIn, ResumeCareIn, StandingCareOut, StopCareIn
from .seats import cared_for
from .services.stop_care import go_on_with_care, stop_care
from .wanted import wanted_of

router = Router(tags=["standing care"])
OF_HOUSE, CORRECTS = Needs(Permission.SEE_HOUSE), Needs(Permission.CORRECT)


@router.get("/standing-care", response=ListOf[StandingCareOut], operation_id="standing_care", auth=OF_HOUSE)
def standing_care(request: HttpRequest) -> Any:
    """The sentences in force, with their last turns."""
    judge = current_judge()
    return answer(care_objects(judge.standard) if judge else ())


@router.post(
    "/standing-care/impact", response=ListOf[CareImpactOut], operation_id="standing_care_impact", auth=OF_HOUSE
)
def impact(request: HttpRequest, given: CareTextIn) -> Any:
    """What each sentence of a text decides of, before it is published."""
    return answer(impact_of(parse_standard(given.text, day=timezone.localdate())))


@router.post("/standing-care/look", response=BegunOut, operation_id="standing_care_look", auth=CORRECTS)
def look(request: HttpRequest, given: LookCareIn) -> Any:
    """Have its seats look now what a sentence of a text would take: a plan of clearing, as any other."""
    standard = parse_standard(given.text, day=timezone.localdate())
    care = next((care for care in standard.care if care.text.name == given.name), None)
    if care is None:
        raise Problem(422, "No such sentence", f"this text has no automatic clean-up called {given.name}")
    wanted = wanted_of(care, cared_for(standard)[given.name], f"Preview of {given.name}")
    return plain({"id": begin_clearing(person(request), wanted).pk})


@router.post("/standing-care/stop", response={204: None}, operation_id="stop_standing_care", auth=CORRECTS)
def stop(request: HttpRequest, given: StopCareIn) -> Any:
    """No turn more comes; what is at work halts."""
    stop_care(given.name, person(request), given.why)
    return Status(204, None)


@router.post("/standing-care/resume", response={204: None}, operation_id="resume_standing_care", auth=CORRECTS)
def resume(request: HttpRequest, given: ResumeCareIn) -> Any:
    """Its next turn comes as its sentence says."""
    go_on_with_care(given.name, person(request))
    return Status(204, None)
