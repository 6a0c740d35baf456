"""Writing orders: what a leg's plan asks of its seat's agent."""

import datetime as dt
import uuid
from collections.abc import Sequence
from itertools import groupby
from typing import Any, Literal

import msgspec
from django.conf import settings
from django.utils import timezone

from normant.common.events import tell
from normant.seats.models import Seat
from normant_core.catalogue import catalogue
from normant_core.changes import PlannedChange
from normant_core.orders import (
    Action,
    Asking,
    Change,
    Clearing,
    Correction,
    ListStore,
    Measure,
    MoveStore,
    PlaceTemplate,
    PutBack,
    Rehearse,
    SendFiles,
    SetGpuPreference,
    SetPowerProfile,
    SetPreference,
    SetPriority,
    SurveyNow,
    canonical,
    forbidden,
)
from normant_core.orders import Order as CoreOrder
from normant_core.plan import SeatPlan

from ..models import Leg, Order, Rehearsal
from .sign import sign_soon, signature

VALID = dt.timedelta(days=7)  # a seat may be away for a week's holiday
SHORT = dt.timedelta(hours=1)  # what would have happened is of use to nobody later


def issue_for(leg: Leg) -> list[Order]:
    """The orders of a leg, in the order in which they are to be carried out."""
    if leg.rollout.of:
        return _put_back_orders(leg)
    made = msgspec.convert(leg.plan, SeatPlan)
    actions = _actions_of(made, remove_old=leg.rollout.careful.remove_old)
    return [_issue(leg.seat, action, leg, place, keys=keys) for place, (action, keys) in enumerate(actions)]


def issue_rehearsal(rehearsal: Rehearsal, seat: Seat, plan: SeatPlan) -> Order:
    """Have a seat look at everything that the plan's orders would look at."""
    actions, keys = zip(*_actions_of(plan), strict=True)
    told = [key for some in keys for key in some]
    order = _issue(seat, Rehearse(actions), None, 0, keys=told)
    order.rehearsal = rehearsal
    order.save(update_fields=["rehearsal"])
    return order


def issue_survey_now(seat: Seat) -> Order:
    """Ask a seat for a survey, outside any rollout."""
    return _issue(seat, SurveyNow(), None, 0)


def issue_question(seat: Seat, question: Asking) -> Order:
    """Have whoever sits at a seat asked to close an application, or to let the machine start again."""
    return _issue(seat, question, None, 0)


def issue_measuring(leg: Leg, job: Literal["play", "render"]) -> Order:
    """Have a canary play or render, before its change and after it."""
    return _issue(leg.seat, Measure(job), leg, 0)


def issue_clearing(seat: Seat, wanted: Clearing) -> Order:
    """Have a seat list a store, or remove what was listed."""
    return _issue(seat, wanted, None, 0)


def issue_send_files(seat: Seat, app: str) -> Order:
    """Ask a seat for the preference files of one application, as they are now."""
    return _issue(seat, SendFiles(app), None, 0)


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


def _put_back_orders(leg: Leg) -> list[Order]:
    earlier = Order.objects.that_changed().filter(leg__rollout=leg.rollout.of, leg__seat=leg.seat)
    return [
        _issue(leg.seat, PutBack(str(order.pk)), leg, place, keys=explained_by(order))
        for place, order in enumerate(reversed(earlier))
    ]


def _actions_of(plan: SeatPlan, *, remove_old: bool = False) -> list[tuple[Correction, list[tuple[str, str | None]]]]:
    """What the plan's orders do, in their order, each with the settings that it is about."""
    orders = [list(changes) for _, changes in groupby(plan.changes, key=_together)]
    return [(_action(changes, remove_old=remove_old), [(c.setting, c.app) for c in changes]) for changes in orders]


def _together(change: PlannedChange) -> tuple[str | None, str, str]:
    """What one order changes: the values of one file, or all of it; by itself each store and value of the system."""
    if change.driver:
        return None, "", change.driver.package  # branch and version are the same driver
    if change.template:
        return change.app, change.file, change.template
    return change.app, change.file_name, change.setting if change.volume or not change.file_name else ""


def _action(changes: list[PlannedChange], *, remove_old: bool) -> Correction:
    first = changes[0]
    if first.driver:
        return first.driver
    if not first.file_name:
        return _of_system(first)
    told = tuple(Change(c.setting, c.before, c.after, c.value) for c in changes)
    if first.template:
        return PlaceTemplate(first.app or "", first.file_name, first.file, told, first.template)
    if first.volume:
        return MoveStore(first.app or "", first.file_name, told[0], first.volume, remove_old)
    return SetPreference(first.app or "", first.file_name, told)


def _of_system(change: PlannedChange) -> Correction:
    told = {"expected": change.before, "app": change.app}
    match change.setting:
        case "power.process_priority":
            return msgspec.convert({**told, "kind": "set_priority", "priority": change.value}, SetPriority)
        case "engine.system_preference":
            return msgspec.convert({**told, "kind": "set_gpu_preference", "preference": change.value}, SetGpuPreference)
    return SetPowerProfile(change.before, str(change.value))


def _issue(seat: Seat, action: Action, leg: Leg | None, place: int, *, keys: Sequence[Any] = ()) -> Order:
    known = uuid.uuid4()
    valid = SHORT if isinstance(action, Rehearse | ListStore) else VALID
    made = CoreOrder(str(known), seat.name, timezone.now() + valid, action)
    body = canonical(made)
    order = Order.objects.create(
        id=known,
        seat=seat,
        leg=leg,
        kind=str(type(action).__struct_config__.tag),
        settings=list(keys),
        body=body,
        signature=signature(body) if settings.NORMANT_SIGNS and not forbidden(action) else None,
        place=place,
    )
    if order.signature:
        tell("orders", seat.name)
    else:
        sign_soon()
    return order
