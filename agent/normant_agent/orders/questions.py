"""Orders that ask whoever sits at the seat; none of them is ever forced."""

import datetime as dt

import msgspec

from normant_core.base.wording import app_title
from normant_core.orders.kinds import AskClose, AskRestart, Receipt

from ..errors import Refused, Waiting
from ..hosts.host import Question
from ..journal import Entry
from .work import Work

LATER = dt.timedelta(minutes=15)  # that a question is put off for
RESTARTING = dt.timedelta(minutes=5)  # so long nobody is asked again: a system gives its programs time to end
NOBODY = 600  # seconds without a touch: nobody sits there


def ask_close(work: Work, order: str, action: AskClose, entry: Entry | None) -> Receipt:
    """Done once the application is closed, by the editor or, where the editor agrees, by the agent."""
    if not any(dialect.app == action.app for dialect in work.dialects):
        raise Refused(f"no dialect of {action.app} speaks for what is installed here")
    name = app_title(action.app)
    if work.host.is_running(action.app):
        _needed(work, name)
        _agree(work, entry or Entry(order), f"Close {name}? {action.why}".strip(), put_off=action.put_off)
        work.step(order, "applying")
        work.host.close(action.app)
    work.step(order, "reading_back")
    return work.close(Entry(order, app=action.app), Receipt(order, "done", message=f"{name} is closed"))


def ask_restart(work: Work, order: str, action: AskRestart, entry: Entry | None) -> Receipt:
    """Done once the machine has started anew since it was asked for, whoever restarted it."""
    begun = entry or work.journal.put(Entry(order, booted=work.host.booted_at()))
    if begun.booted == work.host.booted_at():
        restart(work, begun, f"Restart this machine? {action.why}".strip(), put_off=action.put_off)
    work.step(order, "reading_back")
    return work.close(begun, Receipt(order, "done", message=f"it restarted at {work.host.booted_at()}"))


def restart(work: Work, entry: Entry, text: str, *, put_off: int) -> None:
    """Let the machine start again, with leave, or where nobody is there and nothing is open. Always raises Waiting."""
    try:
        if not entry.restarts or work.host.now() >= entry.restarts:
            _restart(work, entry, text, put_off)
    except Waiting as why:
        raise Waiting(str(why), step="restart") from why
    raise Waiting("the machine restarts", step="restart")


def _restart(work: Work, entry: Entry, text: str, put_off: int) -> None:
    _needed(work, "something")
    activity, open_ = work.host.activity(), [d.app for d in work.dialects if work.host.is_running(d.app)]
    alone = activity.idle_seconds is not None and activity.idle_seconds >= NOBODY and not open_
    if not alone:
        _agree(work, entry, text, put_off=put_off)
    work.step(entry.order, "restart")
    work.journal.put(msgspec.structs.replace(entry, restarts=work.host.now() + RESTARTING))
    work.host.restart()


def _needed(work: Work, name: str) -> None:
    """Raises Waiting where asking is no use: something would be lost."""
    activity = work.host.activity()
    if activity.unsaved:
        raise Waiting(f"{name} is open with unsaved work; waiting")
    if activity.rendering:
        raise Waiting(f"{name} is rendering; waiting")


def _agree(work: Work, entry: Entry, text: str, *, put_off: int) -> None:
    """Come back where the person there agreed. Raises Waiting while they did not, and while they put it off."""
    now = work.host.now()
    if entry.later and now < entry.later:
        raise Waiting(f"postponed at the seat until {entry.later:%H:%M} UTC, {entry.put_off} of {put_off} times")
    match work.host.ask(Question(entry.order, text, entry.put_off < put_off)):
        case "agreed":
            return
        case "later" if entry.put_off < put_off:
            work.journal.put(msgspec.structs.replace(entry, put_off=entry.put_off + 1, later=now + LATER))
            raise Waiting(f"postponed at the seat for {LATER.seconds // 60} minutes")
    raise Waiting("waiting for an answer at the seat")
