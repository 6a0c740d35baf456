"""The round."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.problems import Problem
from normant.findings.reading import MOST_AT_ONCE

from .items import round_now
from .schemas import OfItemOut, RoundOut

NAMED = 40  # seats of an item that are told by name
router = Router(tags=["rollouts"])


@router.get("/round", response=RoundOut, operation_id="round", auth=Needs(Permission.SEE_HOUSE))
def the_round(request: HttpRequest) -> Any:
    """What needs a decision now, most useful first."""
    shown = round_now()
    items = [_shortened(item) for item in shown["items"]]
    overnight = [{**step, "seats": step["seats"][:NAMED]} for step in shown["overnight"]]
    return plain({**shown, "items": items, "overnight": overnight})


@router.get("/round/findings", response=OfItemOut, operation_id="round_findings", auth=Needs(Permission.SEE_HOUSE))
def findings_of_item(request: HttpRequest, title: Annotated[str, Query(max_length=600)] = "") -> Any:
    """List all findings of an item of the Round, by its title, or of all items if none is named."""
    items = [item for item in round_now()["items"] if title in ("", item["title"])]
    if title and not items:
        raise Problem(404, "No such item", "this has been resolved or has changed: reload the Round")
    ids = dict.fromkeys(number for item in items for number in item["ids"])
    seats = dict.fromkeys(seat for item in items for seat in item["seats"])
    return plain({"ids": list(ids)[:MOST_AT_ONCE], "seats": sorted(seats)})


def _shortened(item: dict[str, Any]) -> dict[str, Any]:
    """Few of its seats by name, and none of its findings by number: of thousands nobody reads them."""
    seats = item["seats"]
    return {**{k: v for k, v in item.items() if k != "ids"}, "seats": seats[:NAMED], "seat_count": len(seats)}
