"""Plans of clearing as the API tells them."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from typing import Any

from django.db.models import Q, QuerySet, Sum
from django.db.models.functions import Coalesce
from django.utils.dateparse import parse_datetime

from normant.timelines.current import current_costs
from normant_core.care.clearing import MADE
from normant_core.measure.machine.remaking import picture_words

from .figures import Figures, Told, added, figures_of
from .models import Clearing, SeatClearing, StoreClearing
from .services.sign_clearing import seen_of_clearing
from .words import sentence_of

CARE = "standing care"  # nobody can be called so: names of accounts have no space
MOST_REASONS = 40  # that a plan tells
NONE_DELETED = {"items": 0, "size": 0, "returned": 0, "staying": 0, "lost": 0, "unrecorded": 0, "reasons": []}
FEW_REASONS = 8  # that a store of it tells


def rows_of(clearings: Iterable[Clearing]) -> list[dict[str, Any]]:
    """Plans in one line each."""
    chosen = list(clearings)
    figures, seats = dict[int, Figures](), Counter[int]()
    for number, reported in _told_figures(StoreClearing.objects.filter(of__clearing__in=chosen)):
        figures[number] = added(figures.get(number, Figures()), reported)
    seats.update(SeatClearing.objects.filter(clearing__in=chosen).values_list("clearing", flat=True))
    return [
        {
            "id": row.pk,
            "title": row.title,
            "state": row.state,
            "seats": seats[row.pk],
            **figures.get(row.pk, Figures())._asdict(),
            "created_by": row.created_by.username if row.created_by else CARE,
            "created_at": row.created_at,
        }
        for row in chosen
    ]


def _told_figures(stores: QuerySet[StoreClearing]) -> Iterator[tuple[int, Figures]]:
    """Of each store, with the number of its plan; the lists of reasons are left in the database."""
    own = ("cleared__size", "cleared__held_until", "cleared__is_reported", "deleted__size", "is_back")
    counted = stores.filter(is_implausible=False).values_list("of__clearing", "going_size", *own)
    for number, promised, *reported in counted:
        yield number, figures_of(promised, Told(*reported))


def signer_of(clearing: Clearing) -> str | None:
    """Whoever signed it; standing care signs where a person had agreed to it before."""
    if clearing.signed_at is None:
        return None
    return clearing.signed_by.username if clearing.signed_by else CARE


def clearing_object(clearing: Clearing) -> dict[str, Any]:
    """A plan in numbers: what people read before they sign it, and afterwards what came of it."""
    stores = list(StoreClearing.objects.filter(of__clearing=clearing).order_by("pk"))
    until = _held_until(stores)
    kinds = _kinds(stores)
    moments = (parse_datetime(store.planned.get("oldest") or "") for store in stores if store.going)
    oldest = min((moment for moment in moments if moment), default=None)
    plan = {
        **rows_of([clearing])[0],
        "seen": seen_of_clearing(clearing),
        "reason": clearing.reason,
        "begins": clearing.begins,
        "signed_by": signer_of(clearing),
        "signed_at": clearing.signed_at,
        "ended_at": clearing.ended_at,
        "going": sum(store.going for store in stores),
        "at_once": sum(store.going for store in stores if store.planned.get("at_once")),
        "held_until": until,
        "oldest": oldest,
        "kinds": kinds,
        "stays": _staying(stores),
        "on": _seats(clearing, stores),
        "cleared_items": sum(kind["cleared"] for kind in kinds),
        "put_back": sum(store.figures.cleared for store in stores if store.is_back),
        "returned": sum((store.deleted or {}).get("returned", 0) for store in stores),
        "lost": sum((store.deleted or {}).get("lost", 0) for store in stores),
    }
    return {**plan, "sentence": sentence_of(plan)}


def sentence_to_sign(clearing: Clearing) -> str:
    """What a plan that waits to be signed comes to, summed by the database: the round is read all day."""
    stores = StoreClearing.objects.filter(of__clearing=clearing)
    sums = stores.aggregate(
        all_going=Coalesce(Sum("going"), 0),
        all_promised=Coalesce(Sum("going_size", filter=Q(is_implausible=False)), 0),
        all_at_once=Coalesce(Sum("going", filter=Q(planned__at_once=True)), 0),
    )
    plan = {name.removeprefix("all_"): int(value) for name, value in sums.items()}
    return sentence_of({"state": Clearing.State.PLANNED, **plan})


def seats_that_give(clearing: Clearing) -> list[str]:
    """Those of which something goes, by name."""
    seats = clearing.seats.filter(stores__going__gt=0).order_by("seat__name")
    return list(seats.values_list("seat__name", flat=True).distinct())


def _held_until(stores: Iterable[StoreClearing]) -> Any:
    """When the last of what is held is deleted; None where nothing is held."""
    moments = (parse_datetime((store.cleared or {}).get("held_until") or "") for store in stores if store.figures.held)
    return max((moment for moment in moments if moment), default=None)


def _kinds(stores: Iterable[StoreClearing]) -> list[dict[str, Any]]:
    by_kind, costs = defaultdict[str, list[StoreClearing]](list), current_costs()
    for store in stores:
        by_kind[store.kind].append(store)
    return [
        {
            "kind": kind,
            "making": MADE[kind],  # type: ignore[index] # of core's kinds
            "again": picture_words(kind, sum(store.counted_size for store in of_kind), costs),
            "stores": len(of_kind),
            "items": sum(store.planned.get("items", 0) for store in of_kind),
            "size": sum(store.planned.get("size", 0) for store in of_kind if not store.is_implausible),
            "going": sum(store.going for store in of_kind),
            "going_size": sum(store.counted_size for store in of_kind),
            "cleared": sum((store.cleared or {}).get("items", 0) for store in of_kind),
            "cleared_size": sum(store.figures.cleared for store in of_kind),
        }
        for kind, of_kind in sorted(by_kind.items())
    ]


def _staying(stores: Iterable[StoreClearing]) -> list[dict[str, Any]]:
    items, sizes = Counter[str](), Counter[str]()
    for store in (store for store in stores if not store.is_implausible):
        for reason in store.planned.get("reasons", ()):
            items[reason["why"]] += reason["items"]
            sizes[reason["why"]] += reason["size"]
    return [{"why": why, "items": items[why], "size": size} for why, size in sizes.most_common(MOST_REASONS)]


def _seats(clearing: Clearing, stores: Iterable[StoreClearing]) -> list[dict[str, Any]]:
    figures = dict[int, Figures]()
    for store in stores:
        figures[store.of_id] = added(figures.get(store.of_id, Figures()), store.figures)
    return [
        {
            "seat": row.seat.name,
            "room": row.seat.room,
            "state": row.state,
            "message": row.message,
            **figures.get(row.pk, Figures())._asdict(),
        }
        for row in clearing.seats.select_related("seat").order_by("seat__position", "seat__name")
    ]


def store_object(store: StoreClearing) -> dict[str, Any]:
    """A store in a plan; its row comes with its seat's."""
    own = ("place", "app", "kind", "going", "going_size", "is_implausible", "failed", "put_back")
    fields = ("folder", "volume", "items", "size", "oldest", "at_once", "trouble")
    usual = {"folder": "", "volume": "", "items": 0, "size": 0, "oldest": None, "at_once": False, "trouble": ""}
    cleared = store.cleared and {"reasons": [], "held_until": None, "is_reported": False, **store.cleared}
    deleted = store.deleted and {**NONE_DELETED, **store.deleted}
    return {
        "seat": store.of.seat.name,
        **{name: getattr(store, name) for name in own},
        **{name: store.planned.get(name, usual[name]) for name in fields},
        "reasons": store.planned.get("reasons", [])[:FEW_REASONS],
        "cleared": cleared,
        "deleted": deleted,
    }
