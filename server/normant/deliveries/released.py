"""Which projects are delivered and which productions have ended, as plans of clearing ask."""

from normant.seats.models import Seat
from normant_core.care.clearing import name_key
from normant_core.orders.clearing import Ended

from .models import Delivery, EndedProduction


def delivered_projects() -> tuple[str, ...]:
    """Each project with a signed delivery, by name."""
    return tuple(Delivery.objects.signed().order_by("project").values_list("project", flat=True).distinct())


def ended_productions() -> tuple[Ended, ...]:
    """Each production that has ended: one that a seat is booked on again is live, whatever was said of it."""
    live = live_keys()
    rows = EndedProduction.objects.values_list("name", "key", "ended_at")
    return tuple(Ended(name, ended_at) for name, key, ended_at in rows if key not in live)


def live_keys() -> set[str]:
    """Of the productions that seats are booked on, names as folders may write them."""
    names = Seat.objects.active().exclude(production="").values_list("production", flat=True).distinct()
    return {name_key(name) for name in names}
