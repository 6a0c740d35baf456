"""Productions as people know them: by the seats that are booked on them, and by what has ended."""

from collections import Counter
from typing import Any

from normant.seats.models import Seat
from normant_core.care.deliveries import name_key

from .models import Delivery, EndedProduction


def productions_now() -> list[dict[str, Any]]:
    """Those that are live first, by name; then those that have ended, the latest first."""
    booked = Counter(Seat.objects.active().exclude(production="").values_list("production", flat=True))
    signed = Delivery.objects.signed().exclude(production="").values_list("production", "project").distinct()
    delivered = Counter(name_key(production) for production, _ in signed)
    live = [_row(name, seats, delivered) for name, seats in sorted(booked.items())]
    keys = {name_key(name) for name in booked}
    rows = EndedProduction.objects.select_related("ended_by").order_by("-ended_at")
    return live + [_row(row.name, 0, delivered, row) for row in rows if row.key not in keys]


def _row(name: str, seats: int, delivered: Counter[str], ended: EndedProduction | None = None) -> dict[str, Any]:
    return {
        "id": ended.pk if ended else None,
        "name": name,
        "seats": seats,
        "delivered": delivered[name_key(name)],
        "ended_at": ended.ended_at if ended else None,
        "ended_by": ended.ended_by.username if ended else None,
    }
