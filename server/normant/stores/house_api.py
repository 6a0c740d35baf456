"""The volumes of the house: how full each is, with what, and when it fills."""

import datetime as dt
from typing import Any

from django.http import HttpRequest
from ninja import Query, Router, Schema

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf, Moment
from normant.seats.visible import seat_or_404
from normant_core.care.figures import WHOLE, day_by_day, full_words, grew_most

from .models import VolumeNow
from .services.keep_figures import YEAR, sizes_of

router = Router(tags=["stores"])
OF_HOUSE = Needs(Permission.SEE_HOUSE)
MONTH = dt.timedelta(days=30)


class StoreOnOut(Schema):
    """A store on a volume: bytes, and those that nobody used."""

    name: str
    purpose: str
    app: str | None
    size: int
    unused: int | None


class VolumeRowOut(Schema):
    """A volume of a seat, in bytes: its stores, and when it fills, between `first` and `last` (null: perhaps never).

    `full_on` is null where nothing says that it fills; `per_day` is how fast it grew over 14 days;
    `words` say all that. So many `seats` have it: a network volume is told once, as the first of them sees it.
    """

    seat: str
    seats: int
    room: str
    volume: str
    mount: str
    kind: str
    system: bool | None
    capacity: int
    free: int
    stores: list[StoreOnOut]
    words: str
    per_day: float | None
    full_on: Moment | None
    first: Moment | None
    last: Moment | None


class SeriesOut(Schema):
    """A store's bytes a day from `since` on; of the volume itself (`store` is empty) what is used of it."""

    store: str
    since: dt.date
    sizes: list[int]


class GrewOut(Schema):
    """How many bytes a store grew within a month."""

    store: str
    bytes: int


class VolumeOut(VolumeRowOut):
    """A volume with its year, and what grew most within a month."""

    series: list[SeriesOut]
    grew: list[GrewOut]


@router.get("/volumes", response=ListOf[VolumeRowOut], operation_id="volumes", auth=OF_HOUSE)
def volumes(request: HttpRequest, page: Query[Page]) -> Any:
    """Every volume of the house, the soonest full first, then the fullest."""
    rows = VolumeNow.objects.soonest().select_related("seat")
    return answer((_row(row) for row in rows[page.start : page.end]), total=rows.count())


@router.get("/seats/{name}/volumes/{volume}", response=VolumeOut, operation_id="volume", auth=OF_HOUSE)
def volume(request: HttpRequest, name: str, volume: str) -> Any:
    """One volume with its year."""
    of = seat_or_404(name, person(request))
    rows = VolumeNow.objects.filter(seat=of, volume=volume[:120]).select_related("seat")
    row = row_or_404(rows, "volume", f"{name} has no volume {volume[:120]}, or its figures are not kept yet")
    until = row.at.astimezone(dt.UTC).date()
    sizes = {store: days for (_, store), days in sizes_of(of.pk, until - YEAR, row.volume).items()}
    return plain({**_row(row), "series": _series(sizes, until), "grew": _grew(sizes, until)})


def _row(row: VolumeNow) -> dict[str, Any]:
    own = ("volume", "mount", "kind", "system", "capacity", "free", "per_day", "full_on", "first", "last")
    stores = [
        {"name": name, **{key: store.get(key) for key in ("purpose", "app", "size", "unused")}}
        for name, store in sorted(row.stores.items(), key=lambda pair: (-pair[1].get("size", 0), pair[0]))
    ]
    seat = {"seat": row.seat.name, "seats": getattr(row, "seats", 1), "room": row.seat.room}
    return {
        **seat,
        **{field: getattr(row, field) for field in own},
        "words": full_words(row.core_forecast, row.free),
        "stores": stores,
    }


def _series(sizes: dict[str, dict[dt.date, int]], until: dt.date) -> list[dict[str, Any]]:
    made = ((store, list(day_by_day(days, until))) for store, days in sorted(sizes.items()))
    return [{"store": store, "since": days[0][0], "sizes": [size for _, size in days]} for store, days in made if days]


def _grew(sizes: dict[str, dict[dt.date, int]], until: dt.date) -> list[dict[str, Any]]:
    stores = {store: days for store, days in sizes.items() if store != WHOLE}
    return [{"store": store, "bytes": grown} for store, grown in grew_most(stores, until - MONTH, until)]
