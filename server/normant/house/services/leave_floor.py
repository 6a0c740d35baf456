"""A seat leaves the floor, or another machine takes its place: what is under way there is let go of with it."""

from django.db import transaction

from normant.clearings.services.halt_clearing import leave_seat_to_itself
from normant.rollouts.services.stop import release
from normant.seats.models import Seat
from normant.seats.services.edit_register import replace, retire
from normant.trials.services.halt_trial import leave_seat


@transaction.atomic
def retire_seat(seat: Seat, actor: str, *, reason: str) -> None:
    """Take it off the floor; its history stays."""
    release(seat)
    leave_seat(seat)
    leave_seat_to_itself(seat)
    retire(seat, actor, reason=reason)


@transaction.atomic
def replace_seat(seat: Seat, actor: str, *, reason: str) -> tuple[Seat, str]:
    """A new machine takes over its place: the fresh seat, and a one-time code for its agent."""
    release(seat)
    leave_seat(seat)
    leave_seat_to_itself(seat)
    return replace(seat, actor, reason=reason)
