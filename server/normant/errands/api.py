"""Errands: the list along the floor, one errand, the sheet to print; give, sign off, drop."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.local_time import full_words
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.findings.reading import open_findings
from normant.findings.schemas import FindingsIn
from normant_core.plan.errands import LONGEST_STEP, MOST_STEPS, by_hand

from .listing import errand_object, errands_now, with_all
from .models import Errand
from .schemas import ErrandOut, ErrandsOut
from .services.give_errands import give_errand, give_errands
from .services.run_errands import drop, sign_off

router = Router(tags=["errands"])
Line = Annotated[str, Field(min_length=1, max_length=LONGEST_STEP, pattern=r"\S")]


class ErrandIn(Schema):
    """An errand in somebody's own words."""

    seat: Annotated[str, Field(max_length=64)]
    does: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]
    steps: list[Line] = Field(min_length=1, max_length=MOST_STEPS)
    bring: list[Line] = Field(default=[], max_length=MOST_STEPS)
    minutes: int = Field(default=10, ge=1, le=24 * 60)
    note: str = Field("", max_length=500)


class WordsIn(Schema):
    """What somebody says on signing off."""

    words: str = Field("", max_length=500)


class DropIn(Schema):
    """Why it need not be done."""

    why: str = Field(min_length=1, max_length=200, pattern=r"\S")


@router.get("/errands", response=ErrandsOut, operation_id="errands", auth=Needs(Permission.SEE_HOUSE))
def errands(request: HttpRequest) -> Any:
    """What people have to do at seats, in walking order; and what was done last."""
    return plain(errands_now())


@router.get("/errands/sheet", response={200: None}, operation_id="errand_sheet", auth=Needs(Permission.SEE_HOUSE))
def errand_sheet(request: HttpRequest, room: Annotated[str | None, Query()] = None, errand: int | None = None) -> Any:
    """A PDF to print: every errand, those of a room, or one; each with a code that opens it on a phone."""
    stops = [stop for stop in errands_now()["stops"] if room is None or stop["room"] == room]
    if errand is not None:
        stops = [{**s, "errands": [item for item in s["errands"] if item["id"] == errand]} for s in stops]
    if not any(stop["errands"] for stop in stops):
        raise Problem(404, "Nothing to print", "there is no such open errand")
    from .sheet import as_sheet  # noqa: PLC0415 (imports what makes PDF)

    sheet = as_sheet(stops, lambda number: request.build_absolute_uri(f"/errands/{number}"), _now())
    return HttpResponse(sheet, content_type="application/pdf")


@router.post("/errands/by-hand", response=ErrandOut, operation_id="give_errand", auth=Needs(Permission.CORRECT))
def give_by_hand(request: HttpRequest, given: ErrandIn) -> Any:
    """An errand in somebody's own words."""
    errand_text = by_hand(given.does, given.steps, bring=given.bring, minutes=given.minutes)
    return _errand_object(give_errand(person(request), given.seat, errand_text, note=given.note).pk)


@router.get("/errands/{number}", response=ErrandOut, operation_id="errand", auth=Needs(Permission.SEE_HOUSE))
def errand(request: HttpRequest, number: int) -> Any:
    """One errand."""
    return _errand_object(number)


@router.post("/errands", response=ErrandsOut, operation_id="give_errands", auth=Needs(Permission.CORRECT))
def give_from_findings(request: HttpRequest, given: FindingsIn) -> Any:
    """An errand for each of these findings that a person at the seat can settle."""
    made = give_errands(person(request), open_findings(given.findings))
    if not made:
        message = "each of these already has an errand, or needs a decision on its value first"
        raise Problem(409, "No errand", message)
    return plain(errands_now())


@router.post(
    "/errands/{number}/sign-off", response=ErrandOut, operation_id="sign_off", auth=Needs(Permission.RUN_ERRANDS)
)
def sign_errand_off(request: HttpRequest, number: int, given: WordsIn) -> Any:
    """It is done; where a survey can prove it, the seat is asked for one."""
    return _errand_object(sign_off(number, person(request), given.words).pk)


@router.post("/errands/{number}/drop", response=ErrandOut, operation_id="drop_errand", auth=Needs(Permission.CORRECT))
def drop_errand(request: HttpRequest, number: int, given: DropIn) -> Any:
    """It need not be done."""
    return _errand_object(drop(number, person(request), given.why).pk)


def _errand_object(number: int) -> Any:
    errand = row_or_404(with_all(Errand.objects.filter(pk=number)), "errand", f"there is no errand {number}")
    return plain(errand_object(errand))


def _now() -> str:
    return full_words(timezone.now())
