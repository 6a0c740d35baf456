"""Writing orders: what a seat's agent is to do."""

import datetime as dt
import uuid
from collections.abc import Sequence

from django.db import models
from django.utils import timezone

from normant.common.events import tell
from normant.seats.models import Seat
from normant_core.catalogue.settings import catalogue
from normant_core.orders.kinds import (
    Action,
    Asking,
    CheckProjects,
    ClearStore,
    HoldCondition,
    InspectExport,
    ListStore,
    PlanClearing,
    Rehearse,
    SendFiles,
    SendList,
    SurveyNow,
    canonical,
)
from normant_core.orders.kinds import Order as CoreOrder

from ..models import Order
from .sign import sign_at_once, sign_soon

VALID = dt.timedelta(days=7)  # a seat may be away for a week's holiday
VALID_OF = {  # what is of use to nobody later
    Rehearse: dt.timedelta(hours=1),
    ListStore: dt.timedelta(hours=1),
    PlanClearing: dt.timedelta(hours=1),
    SendList: dt.timedelta(minutes=10),  # somebody waits to read it
    HoldCondition: dt.timedelta(hours=1),  # whoever asked for it sits there
    CheckProjects: dt.timedelta(hours=14),
    InspectExport: dt.timedelta(hours=14),  # a working day, until its seat is free in the evening
}

Key = tuple[str, str | None]  # a setting, and its application (none: the machine's own)


def issue_survey_now(seat: Seat) -> Order:
    """Ask a seat for a survey, outside any rollout."""
    return issue_order(seat, SurveyNow())


def issue_question(seat: Seat, question: Asking) -> Order:
    """Have whoever sits at a seat asked to close an application, or to let the machine start again."""
    return issue_order(seat, question)


def issue_clearing(seat: Seat, wanted: ListStore | ClearStore) -> Order:
    """Have a seat list a store, or remove what was listed."""
    return issue_order(seat, wanted)


def issue_send_files(seat: Seat, app: str) -> Order:
    """Ask a seat for the preference files of one application, as they are now."""
    return issue_order(seat, SendFiles(app))


def keys_of(order: Order) -> list[tuple[str, str | None]]:
    """(setting, application) of everything that an order may change."""
    return [(setting, app) for setting, app in order.settings]


def explained_by(order: Order) -> list[tuple[str, str | None]]:
    """(setting, application) of every reading that an order may have changed: a template is a whole file."""
    keys = keys_of(order)
    if order.kind != "place_template":
        return keys
    of_project = [key for key, setting in catalogue().settings.items() if setting.scope == "project"]
    return [(setting, app) for app in {app for _, app in keys} for setting in of_project]


def issue_order(seat: Seat, action: Action, *, keys: Sequence[Key] = (), place: int = 0, **of: models.Model) -> Order:
    """Write it: a worker signs it, and then the seat is told.

    `keys`: what it may change. `place`: of the orders of one leg, the how-manieth it is. `of`: its `leg`, or the
    `rehearsal` that it belongs to.
    """
    number = uuid.uuid4()
    valid = VALID_OF.get(type(action), VALID)
    body = canonical(CoreOrder(str(number), seat.name, timezone.now() + valid, action))
    order = Order.objects.create(
        id=number,
        seat=seat,
        kind=str(type(action).__struct_config__.tag),
        settings=list(keys),
        body=body,
        place=place,
        **of,
    )
    sign_at_once(order)
    if order.signature:
        tell("orders", seat.name)
    else:
        sign_soon()
    return order
