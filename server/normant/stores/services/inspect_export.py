"""Having a seat look into a finished export."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant_core.base.errors import DocumentError
from normant_core.measure.machine.inspection import read_specification
from normant_core.orders.exports import Specification
from normant_core.orders.kinds import InspectExport

EXPORTS = "store.exports.path"


def specification_of(text: str) -> Specification | None:
    """What an export has to be, from its text; None where that is empty. Raises Problem."""
    if not text.strip():
        return None
    try:
        return read_specification(text, "specification")
    except DocumentError as why:
        raise Problem(422, "No specification", str(why)) from why


@transaction.atomic
def inspect_export(seat: Seat, user: User, wanted: InspectExport) -> Order:
    """Ask it to; what was asked of it before and waits is asked no more: one at a time is enough of a seat's time."""
    lock("leg", [seat.name])
    Order.objects.waiting().filter(seat=seat, kind="inspect_export").update(withdrawn_at=timezone.now())
    order = issue_order(seat, wanted)
    record(user.username, "inspect export", seat.name, app=wanted.app, file=wanted.file, order=str(order.pk))
    return order
