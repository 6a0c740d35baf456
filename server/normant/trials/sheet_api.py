"""Runs by hand, on the phone of whoever is at the seat."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant_core.measure.question import LONGEST_BY_HAND

from .models import Trial, TrialSeat
from .schemas import SheetOut
from .services.by_hand import Take, end_run, leave_run, note_run, take_run
from .sheet import sheet_object

router = Router(tags=["trials"])


class RunIn(Schema):
    """The run that was read from the sheet."""

    run: Annotated[int, Field(ge=1, le=1 << 53)]


class NoteIn(RunIn):
    """What somebody saw of one take (from 0): how many seconds it took, and how many frames were dropped."""

    take: Annotated[int, Field(ge=0, le=100)]
    seconds: Annotated[float, Field(gt=0, lt=LONGEST_BY_HAND)]
    dropped: Annotated[int, Field(ge=0, le=10_000_000)] = 0


DOOR = "/trials/{number}/sheet/{seat}"
MAKER = Needs(Permission.RUN_ERRANDS)


@router.get(DOOR, response=SheetOut, operation_id="sheet", auth=MAKER)
def sheet(request: HttpRequest, number: int, seat: str) -> Any:
    """Return the next run of a manual trial on a seat."""
    return _answer(request, *_trial_on(number, seat))


@router.post(f"{DOOR}/take", response=SheetOut, operation_id="take_run", auth=MAKER)
def take(request: HttpRequest, number: int, seat: str, given: RunIn) -> Any:
    """Have the run's condition set, for this person alone."""
    trial, on = _trial_on(number, seat)
    take_run(on, given.run, person(request))
    return _answer(request, trial, on)


@router.post(f"{DOOR}/note", response=SheetOut, operation_id="note_run", auth=MAKER)
def note(request: HttpRequest, number: int, seat: str, given: NoteIn) -> Any:
    """Record the result of one take. After the last take, everything is put back."""
    trial, on = _trial_on(number, seat)
    note_run(on, given.run, person(request), Take(given.take, given.seconds, given.dropped))
    return _answer(request, trial, on)


@router.post(f"{DOOR}/end", response=SheetOut, operation_id="end_run", auth=MAKER)
def end(request: HttpRequest, number: int, seat: str, given: RunIn) -> Any:
    """No take more: what the seat's agent saw counts."""
    trial, on = _trial_on(number, seat)
    end_run(on, given.run, person(request))
    return _answer(request, trial, on)


@router.post(f"{DOOR}/leave", response=SheetOut, operation_id="leave_run", auth=MAKER)
def leave(request: HttpRequest, number: int, seat: str, given: RunIn) -> Any:
    """Put it back, and leave the run to somebody else."""
    trial, on = _trial_on(number, seat)
    leave_run(on, given.run, person(request))
    return _answer(request, trial, on)


def _answer(request: HttpRequest, trial: Trial, on: TrialSeat) -> Any:
    on.refresh_from_db()
    return plain(sheet_object(trial, on, person(request)))


def _trial_on(number: int, seat: str) -> tuple[Trial, TrialSeat]:
    rows = TrialSeat.objects.select_related("trial", "seat").filter(trial=number, seat__name=seat)
    on: TrialSeat = row_or_404(rows, "trial", f"there is no trial {number} on {seat}")
    if on.trial.core_question.by_hand is None:
        raise Problem(409, "Not by hand", f"the runs of trial {number} are made by agents")
    return on.trial, on
