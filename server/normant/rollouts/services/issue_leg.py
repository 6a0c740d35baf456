"""The orders of a leg: what its plan asks of its seat's agent."""

from itertools import groupby
from typing import Literal

import msgspec

from normant.orders.models import Order
from normant.orders.services.issue import Key, explained_by, issue_order
from normant.seats.models import Seat
from normant_core.orders.kinds import (
    Change,
    Correction,
    Measure,
    MoveStore,
    PlaceTemplate,
    PutBack,
    Rehearse,
    SetGpuPreference,
    SetPowerProfile,
    SetPreference,
    SetPriority,
)
from normant_core.plan.changes import PlannedChange
from normant_core.plan.plan import SeatPlan

from ..models import Leg, Rehearsal

RUNS = 10  # with a dozen canaries and fewer, chance alone makes one look worse every few rollouts


def issue_for(leg: Leg) -> list[Order]:
    """The orders of a leg, in the order in which they are to be carried out."""
    if leg.rollout.of:
        return _put_back_orders(leg)
    plan = msgspec.convert(leg.plan, SeatPlan)
    actions = _actions_of(plan, remove_old=leg.rollout.core_terms.remove_old)
    return [issue_order(leg.seat, action, keys=keys, place=n, leg=leg) for n, (action, keys) in enumerate(actions)]


def issue_rehearsal(rehearsal: Rehearsal, seat: Seat, plan: SeatPlan) -> Order:
    """Have a seat look at everything that the plan's orders would look at."""
    actions, keys = zip(*_actions_of(plan), strict=True)
    keys_of_all = [key for some in keys for key in some]
    return issue_order(seat, Rehearse(actions), keys=keys_of_all, rehearsal=rehearsal)


def issue_measuring(leg: Leg, job: Literal["play", "render"]) -> Order:
    """Have a canary play or render, before its change and after it."""
    return issue_order(leg.seat, Measure(job, RUNS), leg=leg)


def _put_back_orders(leg: Leg) -> list[Order]:
    earlier = Order.objects.that_changed().filter(leg__rollout=leg.rollout.of, leg__seat=leg.seat)
    return [
        issue_order(leg.seat, PutBack(str(order.pk)), keys=explained_by(order), place=place, leg=leg)
        for place, order in enumerate(reversed(earlier))
    ]


def _actions_of(plan: SeatPlan, *, remove_old: bool = False) -> list[tuple[Correction, list[Key]]]:
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
    planned = tuple(Change(c.setting, c.before, c.after, c.value) for c in changes)
    if first.template:
        return PlaceTemplate(first.app or "", first.file_name, first.file, planned, first.template)
    if first.volume:
        return MoveStore(first.app or "", first.file_name, planned[0], first.volume, remove_old)
    return SetPreference(first.app or "", first.file_name, planned)


def _of_system(change: PlannedChange) -> Correction:
    fields = {"expected": change.before, "app": change.app}
    match change.setting:
        case "power.process_priority":
            return msgspec.convert({**fields, "kind": "set_priority", "priority": change.value}, SetPriority)
        case "engine.system_preference":
            return msgspec.convert(
                {**fields, "kind": "set_gpu_preference", "preference": change.value}, SetGpuPreference
            )
    return SetPowerProfile(change.before, str(change.value))
