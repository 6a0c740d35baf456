"""The volumes of the house: how full each is, with what, and when it fills."""

import datetime as dt
from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.answers import answer_of
from normant.common.lists import Page, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf, Moment
from normant.deliveries.released import ended_productions
from normant.seats.views_of import latest_survey
from normant.seats.visible import seat_or_404
from normant_core.care.clearing import MADE, staying_words
from normant_core.care.deliveries import name_key
from normant_core.care.figures import (
    SOON,
    WHOLE,
    day_by_day,
    forecast_of,
    full_words,
    grew_most,
    limit_words,
    volumes_words,
)
from normant_core.seat.survey import UnusedShare

from .history import weekly_used
from .models import VolumeNow
from .services.keep_figures import YEAR, sizes_of

router = Router(tags=["stores"])
OF_HOUSE = Needs(Permission.SEE_HOUSE)
MONTH = dt.timedelta(days=30)


@answer_of(UnusedShare)
class UnusedShareOut(Schema):
    """Bytes that nobody used for so many `days`."""


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
    `words` say all that. So many `seats` have it: a network volume is listed once, as the first of them sees it.
    `used_weekly` are the bytes in use at the end of each week, at most a year of them; the last is the newest figure.
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
    used_weekly: list[int]


class VolumesOut(ListOf[VolumeRowOut]):
    """A part of the volumes; `sentence` and `seats` count all of them."""

    sentence: str
    seats: int


class SeriesOut(Schema):
    """A store's bytes a day from `since` on; of the volume itself (`store` is empty) what is used of it."""

    store: str
    since: dt.date
    sizes: list[int]


class GrewOut(Schema):
    """How many bytes a store grew within a month."""

    store: str
    bytes: int


class StoreWithinOut(StoreOnOut):
    """A store on a volume that was opened: what nobody used by age, what `stays` however old it is, and its `limit`.

    The last two are words; `limit` is empty where its application sets it none.
    """

    oldest: Moment | None
    unused_for: list[UnusedShareOut]
    stays: str
    limit: str


class VolumeOut(VolumeRowOut):
    """A volume with its year, and what grew most within a month."""

    stores: list[StoreWithinOut]  # type: ignore[assignment] # each is one that tells more
    series: list[SeriesOut]
    grew: list[GrewOut]


@router.get("/volumes", response=VolumesOut, operation_id="volumes", auth=OF_HOUSE)
def volumes(request: HttpRequest, page: Query[Page], seat: Annotated[str, Query(max_length=64)] = "") -> Any:
    """List the volumes of the house or of one seat: full ones, then the soonest full, then the fullest."""
    those = VolumeNow.objects.filter(seat__name=seat) if seat else VolumeNow.objects.all()
    rows = those.soonest().select_related("seat")
    counts = those.counts(timezone.now() + SOON)
    return plain(
        {
            "items": _rows(list(rows[page.start : page.end])),
            "total": rows.count(),
            "sentence": volumes_words(counts["full"], counts["filling"]),
            "seats": counts["seats"],
        }
    )


@router.get("/seats/{name}/volumes/{volume}", response=VolumeOut, operation_id="volume", auth=OF_HOUSE)
def volume(request: HttpRequest, name: str, volume: str) -> Any:
    """One volume with its year."""
    of = seat_or_404(name, person(request))
    rows = VolumeNow.objects.filter(seat=of, volume=volume[:120]).select_related("seat")
    row = row_or_404(rows, "volume", f"{name} has no volume {volume[:120]}, or its figures are not available yet")
    until = row.at.astimezone(dt.UTC).date()
    sizes = {store: days for (_, store), days in sizes_of(of.pk, until - YEAR, row.volume).items()}
    return plain(
        {
            **_rows([row])[0],
            "stores": _within(row, sizes, until),
            "series": _series(sizes, until),
            "grew": _grew(sizes, until),
        }
    )


def _within(row: VolumeNow, sizes: dict[str, dict[dt.date, int]], until: dt.date) -> list[dict[str, Any]]:
    """Its stores with what of them stays: a figure that was kept by an older version has no ages."""
    ended = {name_key(production.production) for production in ended_productions()}
    survey = latest_survey(row.seat)
    values = survey.values() if survey else {}
    stores = list[dict[str, Any]]()
    for store in _stores(row):
        limit = values.get((f"store.{store['purpose']}.quota", store["app"]))
        words = _limit_words(sizes.get(store["name"], {}), until, store["size"], limit)
        stores.append({**store, **_aged(row.stores[store["name"]], ended), "limit": words})
    return stores


def _limit_words(sizes: dict[dt.date, int], until: dt.date, size: int, limit: object) -> str:
    if not isinstance(limit, int) or limit <= 0:
        return ""
    return limit_words(forecast_of(sizes, until, limit), size, limit)


def _aged(row: dict[str, Any], ended: set[str]) -> dict[str, Any]:
    shares = {share["production"]: share["size"] for share in row.get("productions", ())}
    going_on = {name: size for name, size in shares.items() if name_key(name) not in ended}
    stays = staying_words(row["purpose"], going_on) if row["purpose"] in MADE else ""
    return {"oldest": row.get("oldest"), "unused_for": row.get("unused_for", []), "stays": stays}


def _rows(volumes: list[VolumeNow]) -> list[dict[str, Any]]:
    used_weekly = weekly_used(volumes)
    return [{**_row(row), "used_weekly": used_weekly[row.pk]} for row in volumes]


def _row(row: VolumeNow) -> dict[str, Any]:
    own = ("volume", "mount", "kind", "system", "capacity", "free", "per_day", "full_on", "first", "last")
    seat = {"seat": row.seat.name, "seats": getattr(row, "seats", 1), "room": row.seat.room}
    return {
        **seat,
        **{field: getattr(row, field) for field in own},
        "words": full_words(row.core_forecast, row.free),
        "stores": _stores(row),
    }


def _stores(row: VolumeNow) -> list[dict[str, Any]]:
    return [
        {"name": name, **{key: store.get(key) for key in ("purpose", "app", "size", "unused")}}
        for name, store in sorted(row.stores.items(), key=lambda pair: (-pair[1].get("size", 0), pair[0]))
    ]


def _series(sizes: dict[str, dict[dt.date, int]], until: dt.date) -> list[dict[str, Any]]:
    made = ((store, list(day_by_day(days, until))) for store, days in sorted(sizes.items()))
    return [{"store": store, "since": days[0][0], "sizes": [size for _, size in days]} for store, days in made if days]


def _grew(sizes: dict[str, dict[dt.date, int]], until: dt.date) -> list[dict[str, Any]]:
    stores = {store: days for store, days in sizes.items() if store != WHOLE}
    return [{"store": store, "bytes": grown} for store, grown in grew_most(stores, until - MONTH, until)]
