"""What the house's disks bring to the round: volumes that are full within seven days."""

from collections.abc import Iterator
from typing import Any

from django.utils import timezone

from normant.stores.models import VolumeNow
from normant_core.care.figures import SOON, full_words

MOST = 12  # volumes that are told one by one: Stores has all of them


def filling() -> Iterator[dict[str, Any]]:
    """The soonest first, with the interval."""
    soon = VolumeNow.objects.soonest().filter(full_on__lte=timezone.now() + SOON).select_related("seat")
    for row in soon[:MOST]:
        yield {
            "kind": "fills",
            "title": f"{row.mount} of {row.seat.name} {'fills within a week' if row.free else 'is full'}",
            "words": f"{full_words(row.core_forecast, row.free)}.",
            "seats": [row.seat.name],
            "seat_count": 1,
            "volume": row.volume,
        }
