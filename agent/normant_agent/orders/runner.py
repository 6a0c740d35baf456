"""Carries out one order: check, keep a copy, write, read back. Run again after a crash it ends in the same state."""

from typing import Literal

import msgspec

from normant_core.base.errors import NormantError
from normant_core.orders.kinds import (
    AskClose,
    AskRestart,
    CheckProjects,
    ClearPlanned,
    ClearStore,
    EndHold,
    HoldCondition,
    InspectExport,
    InstallDriver,
    ListStore,
    Measure,
    MoveStore,
    Order,
    PlaceTemplate,
    PlanClearing,
    PutBack,
    Receipt,
    Rehearse,
    SendFiles,
    SendList,
    SetGpuPreference,
    SetPowerProfile,
    SetPreference,
    SetPriority,
    SurveyNow,
    forbidden,
)

from ..errors import AgentError, JournalError, Refused, Waiting
from ..journal import Entry
from .caches import clear_store, list_store
from .check_projects import check_projects
from .clear_planned import clear_planned, put_store_back
from .clearing_plans import plan_clearing, send_list
from .drivers import VERSION, install_driver, put_driver_back
from .measuring.by_hand import end_hold, hold_condition
from .measuring.exports import inspect_export
from .measuring.meter import measure
from .preference_files import put_file_back, send_files, set_preference
from .questions import ask_close, ask_restart
from .rehearsal import rehearse
from .seal import expired
from .stores import move_store
from .system import put_system_back, set_system
from .templates import place_template
from .work import Work


class Runner:
    """Carries out orders on one host, one after the other."""

    def __init__(self, work: Work) -> None:
        self.work = work

    def run(self, order: Order) -> Receipt:
        """The receipt; a replay gives the first one again. Raises Waiting where the moment has not come.

        Raises JournalError where nothing can be remembered now: run it again, and it goes on from where it was.
        """
        entry = self.work.journal.get(order.id)
        if entry and entry.receipt:
            return entry.receipt
        # An order that was begun is ended even when its time has passed meanwhile: never between.
        if entry is None and expired(order, self.work.host.now()):
            return self.work.close(Entry(order.id), Receipt(order.id, "expired", message="the order's time was over"))
        if self.work.holding.is_live and not isinstance(order.action, EndHold):
            raise Waiting("waiting: a manual run is in progress on this seat")
        try:
            if why := forbidden(order.action):  # whoever signed it
                raise Refused(why)
            return self._act(order, entry)
        except (Waiting, JournalError):
            raise
        except Refused as why:
            return self._given_up(order.id, "refused", why)
        except (AgentError, NormantError) as why:
            return self._given_up(order.id, "failed", why)

    def _given_up(self, order: str, outcome: Literal["refused", "failed"], why: Exception) -> Receipt:
        """The receipt of an order that came to nothing; an application that was closed for it is opened again."""
        entry = self.work.journal.get(order) or Entry(order)
        if entry.reopen:
            self.work.host.reopen(entry.app)
        given_up = msgspec.structs.replace(entry, reopen=False)
        return self.work.close(given_up, Receipt(order, outcome, message=str(why)))

    def _act(self, order: Order, entry: Entry | None) -> Receipt:
        """What changes a seat, or asks whoever sits there."""
        work = self.work
        match order.action:
            case SetPreference() as action:
                return set_preference(work, order.id, action, entry)
            case SetPowerProfile() | SetPriority() | SetGpuPreference() as action:
                return set_system(work, order.id, action, entry)
            case MoveStore() as action:
                return move_store(work, order.id, action, entry)
            case PlaceTemplate() as action:
                return place_template(work, order.id, action, entry)
            case InstallDriver() as action:
                return install_driver(work, order.id, action, entry)
            case PutBack() as action:
                return self._put_back(order.id, action, entry)
            case AskClose() as action:
                return ask_close(work, order.id, action, entry)
            case AskRestart() as action:
                return ask_restart(work, order.id, action, entry)
            case ClearStore() as action:
                return clear_store(work, order.id, action, entry)
            case ClearPlanned() as action:
                return clear_planned(work, order.id, action, entry)
        return self._look(order)

    def _look(self, order: Order) -> Receipt:
        """What leaves a seat as it was."""
        work = self.work
        match order.action:
            case Rehearse() as action:
                return rehearse(work, order.id, action)
            case ListStore() as action:
                return list_store(work, order.id, action)
            case PlanClearing() as action:
                return plan_clearing(work, order.id, action)
            case SendList() as action:
                return send_list(work, order.id, action)
            case Measure() as action:
                return measure(work, order.id, action)
            case HoldCondition() as action:
                return hold_condition(work, order.id, action)
            case EndHold() as action:
                return end_hold(work, order.id, action)
            case CheckProjects() as action:
                return check_projects(work, order.id, action)
            case InspectExport() as action:
                return inspect_export(work, order.id, action)
            case SurveyNow():
                return work.close(Entry(order.id), Receipt(order.id, "done"))
            case SendFiles() as action:
                return work.close(Entry(order.id), send_files(work, order.id, action.app))
        raise Refused("this is nothing that an agent does")

    def _put_back(self, order: str, action: PutBack, entry: Entry | None) -> Receipt:
        earlier = self.work.journal.get(action.order)
        if earlier is None or not (earlier.touched or earlier.system or earlier.gone):
            raise Refused(f"this seat made no changes for order {action.order}")
        if earlier.holds:
            return put_store_back(self.work, order, earlier)
        if earlier.gone and earlier.touched:
            raise Refused("the old folder was removed when the store was moved: move it again, to where it was")
        if earlier.gone:
            raise Refused("deleted cache files cannot be put back: the application recreates them")
        if earlier.system == VERSION:
            return put_driver_back(self.work, order, earlier, entry)
        if earlier.system:
            return put_system_back(self.work, order, earlier)
        return put_file_back(self.work, order, earlier, entry=entry, idle_seconds=action.close_when_idle_seconds)
