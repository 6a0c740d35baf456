"""One seat, for somebody who may see it."""

from normant.accounts.models import User
from normant.common.rows import row_or_404

from .models import Seat


def seat_or_404(name: str, user: User) -> Seat:
    """A seat that the person may see. Raises Problem."""
    seat: Seat = row_or_404(
        Seat.objects.visible_to(user).select_related("presence").filter(name=name),
        "seat",
        f"there is no seat {name} that you may see",
    )
    return seat
