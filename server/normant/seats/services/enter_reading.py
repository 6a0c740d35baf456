"""Entering a reading by hand, where no dialect can reach."""

from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant_core.base.quantities import Value
from normant_core.catalogue.settings import ValueFault, catalogue, nearest

from ..models import Reading, Seat


@transaction.atomic
def enter_reading(seat: Seat, setting: str, app: str, *, text: str, actor: str) -> Reading:
    """Keep what somebody read at the seat; entering the same again makes it fresh. Raises Problem."""
    value = parsed(setting, text)
    lock("leg", [seat.name])
    held = Reading.objects.current().select_for_update().filter(seat=seat, setting=setting, app=app).first()
    if held and held.cause != "by hand":
        where = f" in {held.native['file']}" if held.native else ""
        raise Problem(409, "Read by the agent", f"the agent reads {setting}{where}: it cannot be entered manually")
    now = timezone.now()
    if held:
        held.until = now
        held.save(update_fields=["until"])
    plain = catalogue()[setting].plain(value)
    reading = Reading.objects.create(
        seat=seat, setting=setting, app=app, value=plain, since=now, cause="by hand", entered_by=actor
    )
    record(actor, "enter reading", seat.name, setting=setting, app=app, value=plain)
    tell("seat", seat.name)
    return reading


@transaction.atomic
def take_back(seat: Seat, setting: str, app: str, actor: str) -> None:
    """It is not known any more. Raises Problem where nobody entered it."""
    held = Reading.objects.current().by_hand().filter(seat=seat, setting=setting, app=app)
    if not held.update(until=timezone.now()):
        raise Problem(404, "Not entered", f"{setting} on {seat.name} was not entered manually")
    record(actor, "take back reading", seat.name, setting=setting, app=app)
    tell("seat", seat.name)


def parsed(setting: str, text: str) -> Value:
    """The canonical value of what somebody typed. Raises Problem with what was expected."""
    known = catalogue()
    if setting not in known:
        near = nearest(setting, known.settings)
        raise Problem(
            422, "No such setting", f"unknown setting {setting!r}" + (f": {', '.join(near)}?" if near else "")
        )
    try:
        return known[setting].typed(text)
    except ValueFault as fault:
        raise Problem(422, "Not a value", str(fault)) from fault
