"""Where the stores of a seat would lie best, and in which order they would move there."""

from typing import Any

import msgspec
from django.http import HttpRequest
from ninja import Router, Schema

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.answers import answer_of
from normant.common.lists import plain
from normant.common.problems import Problem
from normant.seats.views_of import latest_survey
from normant.seats.visible import seat_or_404
from normant_core.care.moves import StoreMove, ordered_moves
from normant_core.care.placement import PlacedStore, PlacementError, missing_disk, place, violations
from normant_core.care.wanted_stores import stores_of
from normant_core.seat.facts import Volume

router = Router(tags=["stores"])
OF_HOUSE = Needs(Permission.SEE_HOUSE)
NO_ORDER = "no order of the moves was found that has room at each step"


class StorePlaceOut(Schema):
    """A store with the volume on which it lies and the one on which it would lie best, and why there."""

    name: str
    size: int
    now: str | None
    best: str | None
    why: str


class PlacementVolumeOut(Schema):
    """A volume of the seat."""

    id: str
    mount: str
    kind: str | None
    free: int | None
    system: bool | None


@answer_of(StoreMove)
class StoreMoveOut(Schema):
    """A step of moving stores; `free` are the bytes that are free on each volume after it."""


class PlacementOut(Schema):
    """The stores of a seat, the best place of each, what is amiss now and what would be then; the moves in order.

    `impossible` says why they cannot lie well, or not come there; `disk` how large another disk would have to be.
    """

    stores: list[StorePlaceOut]
    volumes: list[PlacementVolumeOut]
    amiss_now: list[str]
    amiss_then: list[str]
    moved: int
    moves: list[StoreMoveOut]
    impossible: str
    disk: int


@router.get(
    "/seats/{name}/placement", response=PlacementOut, operation_id="placement", auth=Needs(Permission.SEE_HOUSE)
)
def placement(request: HttpRequest, name: str) -> Any:
    """The best placement of all stores of a seat at once."""
    survey = latest_survey(seat_or_404(name, person(request)))
    if survey is None:
        raise Problem(409, "Not surveyed", f"{name} has sent no survey: nobody knows where its stores lie")
    stores, volumes = stores_of(survey), survey.facts.volumes or ()
    try:
        return plain(_answer(stores, volumes))
    except PlacementError as why:
        raise Problem(422, "Not placed", str(why)) from why


def _answer(stores: list[PlacedStore], volumes: tuple[Volume, ...]) -> dict[str, Any]:
    made = place(stores, volumes)
    moves = [] if made.impossible else ordered_moves(stores, volumes, made.volumes)
    targets = ("id", "mount", "kind", "free", "system")
    return {
        "stores": [
            {
                "name": store.name,
                "size": store.size,
                "now": store.volume,
                "best": made.volumes.get(store.name),
                "why": made.whys.get(store.name, ""),
            }
            for store in stores
        ],
        "volumes": [{field: getattr(volume, field) for field in targets} for volume in volumes],
        "amiss_now": list(violations(stores, volumes, {store.name: store.volume for store in stores})),
        "amiss_then": list(made.violations),
        "moved": made.moved,
        "moves": [msgspec.to_builtins(move) for move in moves or ()],
        "impossible": made.impossible or ("" if moves is not None else NO_ORDER),
        "disk": missing_disk(stores, volumes) if made.impossible else 0,
    }
