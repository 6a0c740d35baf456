"""What the orders of a plan do: its changes in their order, gathered by what one order can change at once."""

from collections.abc import Sequence
from itertools import groupby

import msgspec

from ..orders.kinds import (
    Change,
    Correction,
    MoveStore,
    PlaceTemplate,
    SetGpuPreference,
    SetPowerProfile,
    SetPreference,
    SetPriority,
    SystemAction,
)
from .changes import PlannedChange
from .plan import SeatPlan

Key = tuple[str, str | None]  # a setting, and its application (none: the machine's own)


def actions_of(plan: SeatPlan, *, remove_old: bool = False) -> list[tuple[Correction, list[Key]]]:
    """What the plan's orders do, each with the settings that it is about; `remove_old`: of stores that are moved."""
    orders = [list(changes) for _, changes in groupby(plan.changes, key=_together)]
    return [(_action(changes, remove_old=remove_old), [(c.setting, c.app) for c in changes]) for changes in orders]


def _together(change: PlannedChange) -> tuple[str | None, str, str]:
    """What one order changes: the values of one file, or all of it; by itself each store and value of the system."""
    if change.driver:
        return None, "", change.driver.package  # branch and version are the same driver
    if change.template:
        return change.app, change.file, change.template
    return change.app, change.file_name, change.setting if change.volume or not change.file_name else ""


def _action(changes: Sequence[PlannedChange], *, remove_old: bool) -> Correction:
    first = changes[0]
    if first.driver or not first.file_name:
        return first.driver or _of_system(first)
    return _of_file(changes, remove_old=remove_old)


def _of_file(changes: Sequence[PlannedChange], *, remove_old: bool) -> Correction:
    first, app = changes[0], changes[0].app or ""
    planned = tuple(Change(c.setting, c.before, c.after, c.value) for c in changes)
    if first.template:
        return PlaceTemplate(app, first.file_name, first.file, planned, first.template)
    if first.volume:
        return MoveStore(app, first.file_name, planned[0], first.volume, remove_old)
    return SetPreference(app, first.file_name, planned)


def _of_system(change: PlannedChange) -> SystemAction:
    fields = {"expected": change.before, "app": change.app}
    match change.setting:
        case "power.process_priority":
            return msgspec.convert({**fields, "kind": "set_priority", "priority": change.value}, SetPriority)
        case "engine.system_preference":
            return msgspec.convert(
                {**fields, "kind": "set_gpu_preference", "preference": change.value}, SetGpuPreference
            )
    return SetPowerProfile(change.before, str(change.value))
