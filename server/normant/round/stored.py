"""What the house's disks bring to the round: volumes that are full within seven days, plans of clearing and deliveries
that wait for somebody."""

import datetime as dt
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from typing import Any

from django.utils import timezone

from normant.clearings.models import Clearing, StoreClearing
from normant.clearings.objects import rows_of, seats_that_give, sentence_to_sign
from normant.deliveries.models import Delivery
from normant.deliveries.released import ended_productions
from normant.findings.resident import resident
from normant.orders.models import SweepFault
from normant.standing_care.models import Turn
from normant.standing_care.services.take_turns import troubled_turns
from normant.stores.models import VolumeNow
from normant_core.base.quantities import Dimension, show
from normant_core.base.wording import counted, listed, on_seats, opening
from normant_core.care.clearing import kind_words
from normant_core.care.deliveries import name_key
from normant_core.care.figures import SOON, full_words

MOST = 12  # volumes that are told one by one: Stores has all of them
PLANS = 3  # plans of clearing, the newest
MUCH = 10**9  # bytes that an ended production holds: less is nobody's trouble
FEW = 12  # seats of one item that are told
PUT_BACK_SHOWN = dt.timedelta(days=2)  # so long people read of files that the server had put back


def full_volumes() -> Iterator[dict[str, Any]]:
    """Yield an item for each volume without free space."""
    for row in VolumeNow.objects.soonest().filter(free=0).select_related("seat")[:MOST]:
        size = show(row.capacity, Dimension.BYTES, unit="GB")
        yield {**_of_volume(row), "title": f"{row.mount} on {row.seat.name} is full", "words": f"0 B of {size} free."}


def filling() -> Iterator[dict[str, Any]]:
    """Yield an item for each volume that fills up within a week, the soonest first, with its interval."""
    soon = VolumeNow.objects.soonest().filter(full_on__lte=timezone.now() + SOON, free__gt=0).select_related("seat")
    for row in soon[:MOST]:
        yield {
            **_of_volume(row),
            "title": f"{row.mount} on {row.seat.name} fills up within a week",
            "words": f"{full_words(row.core_forecast, row.free)}.",
        }


def _of_volume(row: VolumeNow) -> dict[str, Any]:
    seats = getattr(row, "seats", 1)  # `soonest` counts them
    return {"kind": "fills", "seats": [row.seat.name], "seat_count": seats, "volume": row.volume}


def clearings_waiting() -> Iterator[dict[str, Any]]:
    """Plans that can be read and signed, and those that have halted; of standing care `care_waiting` tells."""
    waiting = Clearing.objects.filter(state__in=(Clearing.State.PLANNED, Clearing.State.HALTED), turn=None)
    for row in waiting[:PLANS]:
        if seats := seats_that_give(row):
            yield {
                "kind": "clearing",
                "title": f"{row.title} {'has halted' if row.reason else 'waits to be signed'}",
                "words": f"{row.reason}." if row.reason else sentence_to_sign(row),
                "seats": seats[:FEW],
                "seat_count": len(seats),
                "clearing": row.pk,
                "since": row.created_at,
            }


def put_back_lately() -> Iterator[dict[str, Any]]:
    """Files that the server had put back, because a delivery was withdrawn or a production goes on; by plan."""
    lately = StoreClearing.objects.filter(lost_at__gt=timezone.now() - PUT_BACK_SHOWN).select_related("of__seat")
    by_plan = defaultdict[int, list[StoreClearing]](list)
    for store in lately.order_by("-lost_at", "pk"):
        by_plan[store.of.clearing_id].append(store)
    for number, stores in list(by_plan.items())[:PLANS]:
        seats = sorted({store.of.seat.name for store in stores})
        kinds = listed(dict.fromkeys(kind_words(store.kind) for store in stores))
        yield {
            "kind": "put_back",
            "title": opening(f"{kinds} on {on_seats(seats)} {_put_back_words(stores)}"),
            "words": f"{opening(listed(dict.fromkeys(store.lost for store in stores)))}.",
            "seats": seats[:FEW],
            "seat_count": len(seats),
            "clearing": number,
            "since": stores[0].lost_at,
        }


def sweep_faults() -> Iterator[dict[str, Any]]:
    """What the server could not go on with when its turn came last: it tries again each minute."""
    titles = {"rollout": "Rollout", "trial": "Trial", "clearing": "Clean-up plan"}
    for fault in SweepFault.objects.all()[:MOST]:
        yield {
            "kind": "fault",
            "title": f"{titles[fault.owner]} {fault.number} cannot go on",
            "words": f"The server reports an error every minute: {fault.message}. See its log.",
            "seats": [],
            "seat_count": 0,
            fault.owner: fault.number,
            "since": fault.since,
        }


def _put_back_words(stores: Sequence[StoreClearing]) -> str:
    if all(store.is_back for store in stores):
        return "were put back"
    if any(store.put_back and not store.is_back for store in stores):
        return "could not all be put back"
    return "are being put back"


def _turn_state(is_halted: bool, has_plan: bool) -> str:
    return "halted" if is_halted else "needs a signature" if has_plan else "not started"


def care_waiting() -> Iterator[dict[str, Any]]:
    """What standing care could not do, or waits for a person to agree to."""
    for turn in troubled_turns():
        plan = turn.clearing
        halted = plan is not None and plan.state == Clearing.State.HALTED
        seats = seats_that_give(plan) if plan else []
        yield {
            "kind": "care",
            "title": f"Automatic clean-up: {turn.name} {_turn_state(halted, plan is not None)}",
            "words": f"{opening(plan.reason if plan and halted else turn.problem)}.",
            "seats": seats[:FEW],
            "seat_count": len(seats),
            "clearing": turn.clearing_id,
            "since": turn.opens,
        }


def care_taken() -> Iterator[dict[str, Any]]:
    """What standing care cleared within the day, together: its room is free a day later."""
    since = timezone.now() - dt.timedelta(days=1)
    turns = list(Turn.objects.filter(clearing__ended_at__gt=since).exclude(clearing__signed_at=None))
    rows = rows_of(turn.clearing for turn in turns if turn.clearing)
    cleared = sum(row["cleared"] for row in rows)
    if rows:
        seats = sorted({name for turn in turns if turn.clearing for name in seats_that_give(turn.clearing)})
        size = show(cleared, Dimension.BYTES, unit="GB")
        yield {
            "kind": "care",
            "title": f"Automatic clean-up freed {size} on {on_seats(seats)}",
            "words": f"{listed(dict.fromkeys(turn.name for turn in turns))}.",
            "seats": seats[:FEW],
            "seat_count": len(seats),
            "clearing": rows[0]["id"] if len(rows) == 1 else None,
            "since": max(turn.opens for turn in turns),
        }


def ended_holding() -> Iterator[dict[str, Any]]:
    """Productions that have ended and still hold much, the most first."""
    ended = {name_key(row.production): row for row in ended_productions()}
    held, seats = Counter[str](), defaultdict[str, set[str]](set)
    if ended:
        with resident.house() as house:
            for row in house.rows:
                for share in (share for store in row.stores for share in store.productions):
                    if (key := name_key(share.production)) in ended and share.size:
                        held[key] += share.size
                        seats[key].add(row.seat.name)
    for key, size in held.most_common(MOST):
        if size >= MUCH:
            yield {
                "kind": "ended",
                "title": f"{ended[key].production} has ended and still holds {show(size, Dimension.BYTES, unit='GB')}",
                "words": f"In stores of {on_seats(sorted(seats[key]))}; plan a clean-up to see what can be deleted.",
                "seats": sorted(seats[key])[:FEW],
                "seat_count": len(seats[key]),
                "production": ended[key].production,
                "since": ended[key].at,
            }


def deliveries_waiting() -> Iterator[dict[str, Any]]:
    """Finished exports that nobody has signed, together."""
    waiting = list(Delivery.objects.to_sign().select_related("seat").order_by("-id")[:FEW])
    count = Delivery.objects.to_sign().count()
    if waiting:
        seats = sorted({row.seat.name for row in waiting if row.seat})
        exports = counted(count, "finished export")
        yield {
            "kind": "delivery",
            "title": f"{exports} {'waits' if count == 1 else 'wait'} for a delivery signature",
            "words": f"{listed(row.project for row in waiting[:3])}: their renders and backups are kept until then.",
            "seats": seats,
            "seat_count": len(seats),
            "since": waiting[-1].proposed_at,
        }
