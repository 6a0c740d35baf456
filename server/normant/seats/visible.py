"""One seat, for somebody who may see it."""

from normant.accounts.models import User
from normant.common.problems import Problem

from .models import Seat


def seat_or_404(name: str, user: User) -> Seat:
    """A seat that the person may see. Raises Problem."""
    seat: Seat | None = Seat.objects.visible_to(user).select_related("presence").filter(name=name).first()
    if seat is None:
        raise Problem(404, "No such seat", f"there is no seat {name} that you may see")
    return seat
