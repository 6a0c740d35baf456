"""Trials: look at what one would mean, start it, watch it, halt it; and reference clips."""

from typing import Annotated, Any

import msgspec
from django.http import HttpRequest
from ninja import File, Form, Query, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.seats.models import Seat
from normant.seats.views_of import latest_views
from normant.seats.visible import seat_or_404
from normant_core.measure.conditions import closes
from normant_core.measure.design import DesignError
from normant_core.measure.machine.house_costs import WIDEST
from normant_core.measure.machine.readiness import readiness
from normant_core.measure.question import check_question
from normant_core.orders.kinds import LIMIT_CLIP

from .evidence import evidence_now
from .machine.decode_routes import routes_now
from .machine.planner import CutIn, cut_of
from .machine.proof import proof_of
from .models import Clip, Run, Trial
from .objects import look_object, nothing_to_look_at, run_rows, trial_object, trial_rows
from .questions import TrialIn
from .rules_of import draft_attached, draft_of_pool, draft_of_trial
from .schemas import (
    ClipOut,
    DraftedOut,
    EvidenceOut,
    LookOut,
    ReadinessOut,
    RoutesOut,
    RunSamplesOut,
    SeatCutOut,
    StartedTrialOut,
    TriableOut,
    TrialOut,
    TrialRowOut,
)
from .services.halt_trial import halt_trial
from .services.keep_clip import drop_clip, keep_clip
from .services.start_trial import MOST_SEATS, outdated, start_or_propose, unfit
from .triable import triable_on

router = Router(tags=["trials"])
Name = Annotated[str, Field(max_length=64)]


class HaltIn(Schema):
    """Why."""

    why: str = Field(min_length=1, max_length=300, pattern=r"\S")


class RoutesIn(Schema):
    """Frames per second that a production needs, hours of its material, megabits per second of the house's proxies."""

    needed: Annotated[float, Field(ge=0, le=1000)] = 25
    hours: Annotated[float, Field(ge=0, le=100_000)] = 0
    mbits: Annotated[float, Field(gt=0, le=100_000)] = 36


class DraftedIn(Schema):
    """`attach`: rules that the trial has measured say so; else its values become rules."""

    attach: bool = False


class ClipIn(Schema):
    """A clip's name, its codec as surveys name it (family, bits and chroma), and its frame in pixels."""

    name: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    codec: Annotated[str, Field(max_length=40, pattern=r"^[a-z0-9]{2,20}/[0-9]{1,2}/(400|420|422|440|444)$")]
    width: Annotated[int, Field(ge=1, le=WIDEST)] | None = None
    height: Annotated[int, Field(ge=1, le=WIDEST)] | None = None

    @property
    def frame(self) -> tuple[int, int] | None:
        """Its size in pixels, where both sides are said."""
        return (self.width, self.height) if self.width and self.height else None


@router.post("/trials/look", response=LookOut, operation_id="look_at_trial", auth=Needs(Permission.CORRECT))
def look(request: HttpRequest, given: TrialIn) -> Any:
    """What starting this trial would mean, and what is in its way."""
    try:
        asked = given.asked()
        check_question(asked.question)
    except DesignError as why:
        return plain(nothing_to_look_at(str(why)))
    except Problem as problem:  # of a value that is still being typed
        return plain(nothing_to_look_at(problem.detail))
    seats = list(Seat.objects.active().filter(name__in=asked.seats))
    apps = dict.fromkeys(app for condition in asked.question.conditions for app in closes(condition.sets))
    looked = look_object(asked, unfit(asked.question, seats), list(apps))
    return plain({**looked, "outdated": outdated(asked.question, seats)})


@router.get("/triable", response=ListOf[TriableOut], operation_id="triable", auth=Needs(Permission.SEE_HOUSE))
def triable(request: HttpRequest, seat: Annotated[list[Name], Query(max_length=MOST_SEATS)]) -> Any:
    """What can be tried on these seats."""
    return answer(triable_on(list(Seat.objects.active().filter(name__in=seat).order_by("name"))))


@router.post("/trials", response=StartedTrialOut, operation_id="start_trial", auth=Needs(Permission.CORRECT))
def start(request: HttpRequest, given: TrialIn) -> Any:
    """Start it, or have it wait for a second person."""
    made = start_or_propose(person(request), given.asked())
    return plain({"id": made.pk} if isinstance(made, Trial) else {"proposal": made.pk})


@router.get("/trials", response=ListOf[TrialRowOut], operation_id="trials", auth=Needs(Permission.SEE_HOUSE))
def trials(request: HttpRequest, page: Query[Page]) -> Any:
    """Every trial, newest first."""
    rows = Trial.objects.select_related("created_by").prefetch_related("seats__seat")
    return answer(trial_rows(list(rows[page.start : page.end])), total=Trial.objects.count())


@router.get("/trials/{number}", response=TrialOut, operation_id="trial", auth=Needs(Permission.SEE_HOUSE))
def trial(request: HttpRequest, number: int) -> Any:
    """One trial with its runs."""
    return plain(trial_object(_trial(number)))


@router.post("/trials/{number}/halt", response=TrialOut, operation_id="halt_trial", auth=Needs(Permission.CORRECT))
def halt(request: HttpRequest, number: int, given: HaltIn) -> Any:
    """No run more; what is set at this moment is put back by the agents."""
    halt_trial(_trial(number), person(request), given.why.strip())
    return plain(trial_object(_trial(number)))


@router.post(
    "/trials/{number}/draft", response=DraftedOut, operation_id="draft_of_trial", auth=Needs(Permission.PUBLISH)
)
def draft(request: HttpRequest, number: int, given: DraftedIn) -> Any:
    """A draft of the standard that says what the trial has shown."""
    make = draft_attached if given.attach else draft_of_trial
    return plain({"draft": make(_trial(number), person(request))})


@router.get(
    "/trials/{number}/runs",
    response=ListOf[dict[str, float | int | str]],
    operation_id="runs",
    auth=Needs(Permission.SEE_HOUSE),
)
def runs(request: HttpRequest, number: int) -> Any:
    """The runs that count, in the columns that the command line reads."""
    return answer(run_rows(_trial(number)))


@router.get("/trials/{number}/runs/{run}", response=RunSamplesOut, operation_id="run", auth=Needs(Permission.SEE_HOUSE))
def run(request: HttpRequest, number: int, run: int) -> Any:
    """What the machine did during a run."""
    made = row_or_404(
        Run.objects.select_related("of__seat", "of__trial__clip").filter(pk=run, of__trial=number),
        "run",
        f"trial {number} has no run {run}",
    )
    return plain({"id": made.pk, "samples": made.samples, "proof": msgspec.to_builtins(proof_of(made))})


@router.get("/seats/{name}/memory", response=SeatCutOut, operation_id="memory", auth=Needs(Permission.SEE_HOUSE))
def memory(request: HttpRequest, name: str, given: Query[CutIn]) -> Any:
    """How the memory of a seat would be cut to preview most, within what its rules allow."""
    return plain(cut_of(seat_or_404(name, person(request)), given))


@router.post(
    "/seats/{name}/memory/draft", response=DraftedOut, operation_id="draft_of_memory", auth=Needs(Permission.PUBLISH)
)
def draft_of_memory(request: HttpRequest, name: str, given: CutIn) -> Any:
    """A draft of the standard with the preview pool that the planner proposes, for the class of a seat."""
    seat = seat_or_404(name, person(request))
    planned = cut_of(seat, given)
    if planned["app"] not in planned["apps"]:
        raise Problem(409, "No preview pool", f"no application {planned['app']} of {name} has one")
    if planned["cut"]["over"]:
        raise Problem(409, "Over-committed", planned["cut"]["sentence"])
    because = f"Planned for {seat.name}: {planned['cut']['sentence']}"
    return plain({"draft": draft_of_pool(seat, planned["app"], planned["cut"]["pool"], because, person(request))})


@router.get("/seats/{name}/ready", response=ReadinessOut, operation_id="ready", auth=Needs(Permission.SEE_SEATS))
def ready(request: HttpRequest, name: str) -> Any:
    """Ready to deliver? Every lowered preview setting beside the guard that it needs."""
    seat = seat_or_404(name, person(request))
    view = next((view for _, view in latest_views([seat])), None)
    return plain(msgspec.to_builtins(readiness(view.readings if view else {})))


@router.get("/routes", response=RoutesOut, operation_id="decode_routes", auth=Needs(Permission.SEE_HOUSE))
def decode_routes(request: HttpRequest, given: Query[RoutesIn]) -> Any:
    """Which device decodes which codec on every seat."""
    return plain(routes_now(given.needed, given.hours, given.mbits))


@router.get("/evidence", response=ListOf[EvidenceOut], operation_id="evidence", auth=Needs(Permission.SEE_HOUSE))
def evidence(request: HttpRequest) -> Any:
    """Rules of the standard in force that a trial measured, or contradicts."""
    return answer(msgspec.to_builtins(spoken) for spoken in evidence_now())


@router.get("/clips", response=ListOf[ClipOut], operation_id="clips", auth=Needs(Permission.SEE_HOUSE))
def clips(request: HttpRequest) -> Any:
    """Every reference clip of the house."""
    return answer(_clip(clip) for clip in Clip.objects.defer("body").prefetch_related("trials"))


@router.post("/clips", response=ClipOut, operation_id="keep_clip", auth=Needs(Permission.PUBLISH))
def keep(request: HttpRequest, about: Form[ClipIn], file: File[UploadedFile]) -> Any:
    """Keep a reference clip."""
    body, actor = file.read(LIMIT_CLIP + 1), person(request).username
    return plain(_clip(keep_clip(about.name, about.codec, body, actor, frame=about.frame)))


@router.delete("/clips/{number}", response={204: None}, operation_id="drop_clip", auth=Needs(Permission.PUBLISH))
def drop(request: HttpRequest, number: int) -> Status[None]:
    """The house needs it no more; one that was measured with stays."""
    drop_clip(number, person(request).username)
    return Status(204, None)


def _trial(number: int) -> Trial:
    rows = Trial.objects.select_related("created_by", "clip").defer("clip__body").filter(pk=number)
    return row_or_404(rows, "trial", f"there is no trial {number}")


def _clip(clip: Clip) -> dict[str, Any]:
    fields = ("name", "codec", "width", "height", "size", "digest", "kept_by", "kept_at")
    return {"id": clip.pk, **{name: getattr(clip, name) for name in fields}, "trials": len(clip.trials.all())}
