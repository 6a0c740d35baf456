"""News of rollouts: people who see the house hear of the rollout, the editor at a seat hears of that seat alone."""

from collections.abc import Iterable

from normant.common.events import tell

from ..models import Leg, Rollout


def tell_of_leg(leg: Leg) -> None:
    """A seat's part in a rollout moved."""
    tell("rollout", str(leg.rollout_id))
    tell("planned", leg.seat.name)


def tell_of_legs(rollout: Rollout, seats: Iterable[str] | None = None) -> None:
    """The rollout moved, with these seats, or with all of its own."""
    tell("rollout", str(rollout.pk))
    for seat in rollout.legs.values_list("seat__name", flat=True) if seats is None else seats:
        tell("planned", seat)
