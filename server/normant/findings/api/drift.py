"""The grid of drift."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import AwareDatetime, Field

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.problems import Problem
from normant.common.schemas import ListOf

from ..grid import cell_account, findings_at, grid
from ..schemas import CellToldOut, GridOut, PlacedOut

router = Router(tags=["drift"])
Text = Annotated[str, Field(max_length=80)]


class CellAsked(Schema):
    """A setting of an application (none: the machine's own) on a seat, now or at a moment."""

    seat: Text
    setting: Text
    app: Text | None = None
    at: AwareDatetime | None = None


class PlaceIn(Schema):
    """A setting of an application on some seats."""

    setting: Text
    app: Text | None = None
    seats: list[Text] = Field(max_length=20_000)


class PlacesIn(Schema):
    """The cells that were selected in the grid."""

    places: list[PlaceIn] = Field(min_length=1, max_length=1000)


@router.get("/drift", response=GridOut, operation_id="drift", auth=Needs(Permission.SEE_HOUSE))
def the_grid(request: HttpRequest, at: AwareDatetime | None = None) -> Any:
    """Every setting on every seat, now or at a past moment under the standard of today."""
    return plain(grid(at))


@router.get("/drift/cell", response=CellToldOut, operation_id="drift_cell", auth=Needs(Permission.SEE_HOUSE))
def the_cell(request: HttpRequest, asked: Query[CellAsked]) -> Any:
    """One cell in words."""
    cell = cell_account(asked.seat, (asked.setting, asked.app), asked.at)
    if cell is None:
        raise Problem(404, "No such cell", f"no rule applies to {asked.setting} on {asked.seat}")
    return plain(cell)


@router.post(
    "/drift/findings", response=ListOf[PlacedOut], operation_id="drift_findings", auth=Needs(Permission.SEE_HOUSE)
)
def the_findings(request: HttpRequest, given: PlacesIn) -> Any:
    """The findings behind what was selected, without those that were waived."""
    return answer(findings_at([((place.setting, place.app), place.seats) for place in given.places]))
