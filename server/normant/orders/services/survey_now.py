"""Asking a seat for a survey."""

from django.db import transaction

from normant.accounts.models import User
from normant.ledger.services.record import record
from normant.seats.models import Seat

from ..models import Order
from .issue import issue_survey_now


@transaction.atomic
def survey_now(seat: Seat, user: User) -> Order:
    """Somebody asks for one, outside any rollout: the order and its entry, or neither."""
    order = issue_survey_now(seat)
    record(user.username, "survey now", seat.name, order=str(order.pk))
    return order
