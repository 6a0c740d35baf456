"""The register: which seats there are, and what they are for."""

from dataclasses import dataclass

from django.db import transaction

from normant.common.events import tell
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant_core.seat.register import ROLES

from ..models import Seat


@dataclass(frozen=True, slots=True)
class Place:
    """What the register says of a seat."""

    role: str = ""
    room: str = ""
    production: str = ""
    hardware_class: str = ""


def validate_role(role: str | None) -> None:
    """Raise Problem for a role that no seat can have. An empty one is allowed: the role is unknown."""
    if role and role not in ROLES:
        raise Problem(422, "No such role", f"unknown role {role!r}: expected one of {', '.join(ROLES)}")


@transaction.atomic
def register(name: str, place: Place, actor: str) -> Seat:
    """Add a seat, or say anew what it is for."""
    fields = {
        "role": place.role,
        "room": place.room,
        "production": place.production,
        "hardware_class": place.hardware_class,
    }
    seat, _ = Seat.objects.update_or_create(name=name, defaults=fields)
    record(actor, "register seat", name, **fields)
    tell("seat", name)
    return seat
