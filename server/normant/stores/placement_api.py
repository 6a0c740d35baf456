"""Where the stores of a seat would lie best, and in which order they would move there."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

import msgspec
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.answers import answer_of
from normant.common.lists import plain
from normant.common.problems import Problem
from normant.findings.models import Finding
from normant.seats.models import Seat
from normant.seats.views_of import entered_by_hand, latest_survey, merged
from normant.seats.visible import seat_or_404
from normant.standards.current import current_judge
from normant_core.base.quantities import Dimension, show
from normant_core.care.moves import StoreMove, ordered_moves
from normant_core.care.placement import (
    PlacedStore,
    Placement,
    PlacementError,
    arranged,
    missing_disk,
    place,
    refusal,
    violations,
)
from normant_core.care.wanted_stores import name_of, stores_of
from normant_core.judging.placing import volumes_in_norm
from normant_core.plan.errands import MOST_STEPS
from normant_core.seat.facts import Volume
from normant_core.seat.survey import Survey

router = Router(tags=["stores"])
OF_HOUSE = Needs(Permission.SEE_HOUSE)
NO_ORDER = "no order of moves has enough free space at each step"


class StorePlaceOut(Schema):
    """A store with its present volume, its best volume, and the reason."""

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
    capacity: int | None
    free: int | None
    system: bool | None


@answer_of(StoreMove)
class StoreMoveOut(Schema):
    """A step of moving stores; `free` are the bytes that are free on each volume after it."""


class ArrangedIn(Schema):
    """The volume of each store, by the store's name; stores that are not named stay where they are."""

    on: dict[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=120)]] = Field(max_length=64)


class HandsOut(Schema):
    """An errand, as somebody may give it."""

    does: str
    steps: list[str]
    minutes: int


class PlacementOut(Schema):
    """The stores of a seat, the best volume for each, the problems now and after the moves, and the moves in order.
    `unmet` are the stores that the standard allows on no volume of this seat. `findings` are open findings that
    the moves settle. `impossible` says why there is no good placement, or no way to it; `disk` the size of the
    additional disk that is needed; `refused` why a store may not be on a volume, by the names of both; `errand`
    the work for a person."""

    stores: list[StorePlaceOut]
    volumes: list[PlacementVolumeOut]
    unmet: list[str]
    findings: list[int]
    amiss_now: list[str]
    amiss_then: list[str]
    moved: int
    moves: list[StoreMoveOut]
    impossible: str
    disk: int
    refused: dict[str, dict[str, str]]
    errand: HandsOut | None


@router.get(
    "/seats/{name}/placement", response=PlacementOut, operation_id="placement", auth=Needs(Permission.SEE_HOUSE)
)
def placement(request: HttpRequest, name: str) -> Any:
    """The best placement of all stores of a seat at once."""
    stored = _stored(name, request)
    try:
        return plain(_answer(stored, stored.stores, place(stored.stores, stored.volumes)))
    except PlacementError as why:
        raise Problem(422, "Not placed", str(why)) from why


@router.post("/seats/{name}/placement", response=PlacementOut, operation_id="arrange_stores", auth=OF_HOUSE)
def arrange(request: HttpRequest, name: str, given: ArrangedIn) -> Any:
    """What the rules say of a placement that somebody chose; nothing is done."""
    stored = _stored(name, request)
    stores, volumes = stored.stores, stored.volumes
    if unknown := given.on.keys() - {store.name for store in stores}:
        raise Problem(422, "No such store", f"{name} has no {min(unknown)}")
    known = [store for store in stores if store.volume or store.name in given.on]
    on = {store.name: given.on.get(store.name) or store.volume or "" for store in known}
    try:
        return plain(_answer(stored, known, arranged(known, volumes, on)))
    except PlacementError as why:
        raise Problem(422, "Not placed", str(why)) from why


@dataclass(frozen=True, slots=True)
class _Stored:
    """A seat's stores, each for the volumes that the standard allows it, its volumes, and those that it allows none."""

    seat: Seat
    survey: Survey
    stores: list[PlacedStore]
    volumes: tuple[Volume, ...]
    unmet: list[str]


def _stored(name: str, request: HttpRequest) -> _Stored:
    """What a seat told last, as the standard in force sees it. Raises Problem."""
    seat = seat_or_404(name, person(request))
    survey = latest_survey(seat)
    if survey is None:
        raise Problem(409, "Not surveyed", f"{name} has sent no survey, so its stores are unknown")
    judge, view = current_judge(), merged(seat, survey, entered_by_hand(seat), timezone.now())
    allowed = {(s.purpose, s.app): volumes_in_norm(judge, view, s) if judge else None for s in survey.stores}
    stores = stores_of(survey, lambda store: allowed[store.purpose, store.app] or ())
    unmet = {name_of(store) for store in survey.stores if allowed[store.purpose, store.app] == ()}
    none = [store.name for store in stores if store.name in unmet]
    return _Stored(seat, survey, stores, survey.facts.volumes or (), none)


def _corrected(stored: _Stored, made: Placement) -> list[int]:
    """Open findings that want a store moved to where this placement has it: agents can do that by a plan."""
    moved = {
        (f"store.{store.purpose}.path", store.app): made.volumes.get(name_of(store)) for store in stored.survey.stores
    }
    rows = Finding.objects.wanting().filter(seat=stored.seat, setting__startswith="store.")
    wanted = ((row, moved.get((row.setting, row.app))) for row in rows)
    return [row.pk for row, target in wanted if target and row.verdict.get("fix") == target]


def _hands(moves: Sequence[StoreMove], disk: int, volumes: Sequence[Volume]) -> dict[str, Any] | None:
    """Bringing the disk that is missing, else carrying the stores over in their order."""
    if disk:
        size = show(disk, Dimension.BYTES, unit="GB")
        steps = [
            f"Put in a disk of at least {size}, ssd or better.",
            "Start the machine and check that it detects the disk.",
        ]
        return {"does": f"Bring a disk of at least {size} for its stores", "steps": steps, "minutes": 30}
    mounts = {volume.id: volume.mount for volume in volumes}
    steps = [_step(move, mounts) for move in moves[: MOST_STEPS - 1]]
    if not steps:
        return None
    steps.append("Set the new folder in each application, and test it before you delete the old one.")
    return {"does": "Move stores to their best volumes", "steps": steps, "minutes": 15 * len(steps)}


def _step(move: StoreMove, mounts: Mapping[str, str]) -> str:
    size, way = show(move.size, Dimension.BYTES, unit="GB"), ", by the way" if move.detour else ""
    source = mounts.get(move.source or "", "nowhere")
    return f"Copy {move.store} ({size}) from {source} to {mounts.get(move.target, move.target)}{way}."


def _answer(stored: _Stored, stores: list[PlacedStore], made: Placement) -> dict[str, Any]:
    volumes = stored.volumes
    moves = [] if made.impossible else ordered_moves(stores, volumes, made.volumes)
    disk = _disk(stores, volumes) if made.impossible else 0
    targets = ("id", "mount", "kind", "capacity", "free", "system")
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
        "unmet": stored.unmet,
        "findings": [] if made.impossible else _corrected(stored, made),
        "amiss_now": list(violations(stores, volumes, {store.name: store.volume for store in stores})),
        "amiss_then": list(made.violations),
        "moved": made.moved,
        "moves": [msgspec.to_builtins(move) for move in moves or ()],
        "impossible": made.impossible or ("" if moves is not None else NO_ORDER),
        "disk": disk,
        "refused": {s.name: {v.id: why for v in volumes if (why := refusal(s, v))} for s in stores},
        "errand": _hands(moves or (), disk, volumes),
    }


def _disk(stores: list[PlacedStore], volumes: tuple[Volume, ...]) -> int:
    """0 too where another disk would not help."""
    try:
        return missing_disk(stores, volumes)
    except PlacementError:
        return 0
