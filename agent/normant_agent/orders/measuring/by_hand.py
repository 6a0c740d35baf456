"""Runs by hand: a condition is set and held while somebody at the seat plays or exports, then everything is put back.

Nothing else is done to the machine meanwhile. Whoever pressed the button agreed that the application is closed for it,
so that it is not waited for until they left; unsaved work and renders are waited for all the same.
"""

import time
from contextlib import ExitStack

from normant_core.orders.kinds import EndHold, HoldCondition, Receipt

from ...errors import Refused, Waiting
from ...files import inside
from ...jobs.frame_stats import StatsWatch
from ...jobs.watcher import ExportWatch
from ...journal import Entry
from ..work import Work
from .exports import exports_of
from .held import Held
from .meter import changed, put_trial_back

AT_ONCE = 0  # seconds that the machine need have been idle


def hold_condition(work: Work, order: str, action: HoldCondition) -> Receipt:
    """Set it, and watch from now on. Raises Waiting while there is unsaved work, or the machine renders."""
    put_trial_back(work, idle_seconds=AT_ONCE)
    _check_calm(work)
    watch = _watch(work, action)
    try:
        if why := changed(work, order, action.under):
            left = put_trial_back(work, idle_seconds=AT_ONCE)
            return work.close(Entry(order), Receipt(order, "accepted_as", message="; ".join(filter(None, (why, left)))))
        return _held(work, order, action, watch)
    except Exception:
        put_trial_back(work, idle_seconds=AT_ONCE)
        raise


def _watch(work: Work, action: HoldCondition) -> ExportWatch | StatsWatch | None:
    """What is watched of the application meanwhile. Raises Refused where it tells nothing of the kind."""
    if not action.app:
        return None
    if not action.rate:
        return ExportWatch(exports_of(work, action.app))
    files = [file for dialect in work.dialects if dialect.app == action.app for file in dialect.file]
    root = work.host.preference_root
    known = {inside(root, stats.path, action.app): stats for file in files for stats in file.stats}
    if not known:
        raise Refused(f"no dialect of {action.app} says where it tells of what it plays")
    return StatsWatch(known, action.rate)


def _held(work: Work, order: str, action: HoldCondition, watch: ExportWatch | StatsWatch | None) -> Receipt:
    """It is set: what watches begins, and the receipt says so."""
    with ExitStack() as begun:
        apps = tuple(dict.fromkeys(dialect.app for dialect in work.dialects))
        sampling = begun.enter_context(work.host.sampling(apps))
        if isinstance(watch, ExportWatch):
            begun.enter_context(watch.watching())
        receipt = work.close(Entry(order), Receipt(order, "done", message="set, and held"))
        until = time.monotonic() + 60 * action.minutes
        work.holding.held = Held(order, until, sampling, watch, begun.pop_all())
    return receipt


def end_hold(work: Work, order: str, action: EndHold) -> Receipt:
    """Put back what is held, and tell every export and what the machine did. Raises Waiting as for a correction."""
    held = work.holding.held
    if held and work.holding.is_live and held.order != action.order:
        raise Refused("another manual run is in progress on this seat")
    if held is None or not work.holding.is_live:
        left = put_trial_back(work)
        work.holding.forget()
        why = "the run was cut off: its time was over, or the agent was started again; everything was put back"
        raise Refused("; ".join(filter(None, (why, left))))
    seconds, samples, words = held.stop()
    left = put_trial_back(work, idle_seconds=AT_ONCE)
    message = "; ".join(filter(None, (left, words)))
    receipt = work.close(Entry(order), Receipt(order, "done", message=message, measured=seconds, samples=(samples,)))
    work.holding.forget()
    return receipt


def _check_calm(work: Work) -> None:
    activity = work.host.activity()
    if activity.unsaved:
        raise Waiting("waiting: unsaved work")
    if activity.rendering:
        raise Waiting("waiting: the machine is rendering")
