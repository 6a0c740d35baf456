"""A plan of clearing of a whole house: asked for, answered by every seat, and read."""

import json
import time
from typing import Any
from uuid import uuid4

from ..house import enrolled_seats
from ..measure import EXAMPLES, Figure

SEATS, STORES, ITEMS = 1_000, 1, 10_000_000
SECONDS = 10.0
PAGE = 1000


def clearings(_seats: int) -> list[Figure]:
    """A thousand seats with ten thousand items each: what the server takes besides the receipts, which come one by one
    as seats have looked."""
    mark = uuid4().hex[:6]
    names = [name for name, _ in enrolled_seats(f"clear-{mark}", SEATS)]
    _with_surveys(names)
    begun = time.perf_counter()
    number = _begin(names)
    asked = time.perf_counter()
    _answer(number)
    answered = time.perf_counter()
    items, late = _read(number)
    read = time.perf_counter() - answered
    took = asked - begun + read
    _drop(number)
    each = (answered - asked) / SEATS
    against = (
        f"of {items:,} items on {SEATS} seats: {asked - begun:.1f} s to ask, {read:.2f} s to read; its answers come as "
        f"receipts, {1000 * each:.0f} ms each; a page of its stores {late:.2f} s"
    )
    held = took < SECONDS and late < 1 and items == ITEMS
    return [Figure("clearings", took, " s", against, took / SECONDS, f"under {SECONDS:.0f} s", held)]


def _with_surveys(names: list[str]) -> None:
    from django.utils import timezone  # noqa: PLC0415 (after setup)

    from normant.dialects.services.keep_dialect import keep_dialect  # noqa: PLC0415
    from normant.seats.models import Seat, Survey  # noqa: PLC0415

    keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8"), "bench")
    body: dict[str, Any] = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())
    now = timezone.now()
    Survey.objects.bulk_create(
        Survey(seat=seat, taken_at=now, body=json.dumps({**body, "seat": seat.name}).encode())
        for seat in Seat.objects.filter(name__in=names)
    )


def _begin(names: list[str]) -> int:
    from normant.clearings.services.begin_clearing import Wanted, begin_clearing  # noqa: PLC0415 (after setup)

    return begin_clearing(_user(), Wanted(names, ["source_cache"])).pk


def _user() -> Any:
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)

    return User.objects.get_or_create(username="bench", defaults={"role": "supervisor"})[0]


def _answer(number: int) -> None:
    """Every seat, one after the other, as the agents' door takes it."""
    from normant.orders.models import Order  # noqa: PLC0415 (after setup)
    from normant.rollouts.services.receive import receive_receipt  # noqa: PLC0415
    from normant_core.orders.clearing import PlannedStore, Reason  # noqa: PLC0415
    from normant_core.orders.kinds import Receipt  # noqa: PLC0415

    each = ITEMS // SEATS // STORES
    planned = tuple(
        PlannedStore(
            "corrow",
            "source_cache",
            folder=f"/fast/corrow/{place}",
            items=each,
            size=each * 10**6,
            going=each // 2,
            going_size=each * 10**6 // 2,
            reasons=tuple(Reason(f"project {n} has no delivered export", 10, 10**7) for n in range(20)),
            digest=f"{place:064x}",
        )
        for place in range(STORES)
    )
    for order in Order.objects.filter(clearing__clearing=number).select_related("seat"):
        receive_receipt(order.seat, Receipt(str(order.pk), "done", planned=planned))


def _read(number: int) -> tuple[int, float]:
    """Items of the whole plan as a person reads it, and how long the slowest of its pages of stores takes."""
    from normant.clearings.models import Clearing, StoreClearing  # noqa: PLC0415 (after setup)
    from normant.clearings.objects import clearing_object, store_object  # noqa: PLC0415

    plan = clearing_object(Clearing.objects.get(pk=number))
    begun = time.perf_counter()
    rows = StoreClearing.objects.filter(of__clearing=number).select_related("of__seat").order_by("-going_size")
    list(map(store_object, rows[:PAGE]))
    return sum(kind["items"] for kind in plan["kinds"]), time.perf_counter() - begun


def _drop(number: int) -> None:
    from normant.clearings.models import Clearing  # noqa: PLC0415 (after setup)
    from normant.clearings.services.halt_clearing import drop_clearing  # noqa: PLC0415

    drop_clearing(Clearing.objects.get(pk=number), _user())
