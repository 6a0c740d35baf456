"""Orders about what the system itself holds: the power profile, and its treatment of one application."""

from typing import assert_never

import msgspec

from normant_core.base.wording import with_app
from normant_core.catalogue.settings import catalogue
from normant_core.orders.kinds import Receipt, Result, SetGpuPreference, SetPowerProfile, SetPriority, SystemAction

from ..errors import Refused
from ..journal import Entry
from .work import Work, compared


def set_system(work: Work, order: str, action: SystemAction, entry: Entry | None) -> Receipt:
    """Choose a value of the system's, if it still has the one that the plan saw; read back what it has then."""
    setting, app, wanted = asked(action)
    name = name_of(setting, app)
    here = work.host.system_value(setting, app)
    compared(name, here, action.expected, wanted)
    reopen = bool(entry and entry.reopen)
    if here != wanted and isinstance(action, SetGpuPreference):
        reopen |= work.closed(order, app, action.close_when_idle_seconds)
    work.step(order, "checking")
    work.step(order, "saving")
    begun = entry if entry and entry.system else Entry(order, app=app, system=setting, value_before=here)
    begun = work.journal.put(msgspec.structs.replace(begun, value_after=wanted, reopen=reopen))
    work.step(order, "applying")
    if (now := work.host.system_value(setting, app)) != here:
        raise Refused(f"{name} has been changed to {now}; it is kept")
    if here != wanted:
        work.host.set_system_value(setting, app, wanted)
    work.step(order, "reading_back")
    if begun.reopen:
        work.host.reopen(app)
    now = work.host.system_value(setting, app)
    done = now == wanted
    message = "" if done else f"accepted as {now}, asked for {wanted}"
    result = Result(setting, "done" if done else "accepted_as", begun.value_before, now, now, message)
    receipt = Receipt(order, "done" if done else "accepted_as", (result,), message)
    return work.close(msgspec.structs.replace(begun, value_after=now, reopen=False), receipt)


def put_system_back(work: Work, order: str, earlier: Entry) -> Receipt:
    """The value that an earlier order found, where its own still stands."""
    setting, app = earlier.system, earlier.app
    for step in ("checking", "saving", "applying"):
        work.step(order, step)
        here = work.host.system_value(setting, app)
        if here not in (earlier.value_after, earlier.value_before):
            raise Refused(f"{name_of(setting, app)} was changed since, to {here}; it stays")
    work.host.set_system_value(setting, app, earlier.value_before)
    work.step(order, "reading_back")
    now = work.host.system_value(setting, app)
    done = now == earlier.value_before
    message = "" if done else f"it is {now}, asked for {earlier.value_before}"
    result = Result(setting, "done" if done else "accepted_as", here, now, message=message)
    return work.close(Entry(order), Receipt(order, "done" if done else "accepted_as", (result,), message))


def asked(action: SystemAction) -> tuple[str, str, str]:
    """Setting, application (empty: the machine's own), and the value that is asked for."""
    match action:
        case SetPowerProfile():
            return "power.profile", "", action.profile
        case SetPriority():
            return "power.process_priority", action.app, action.priority
        case SetGpuPreference():
            return "engine.system_preference", action.app, action.preference
    assert_never(action)


def name_of(setting: str, app: str) -> str:
    """Return the setting in words: `Power profile`, `Corrow process priority`."""
    return with_app(catalogue()[setting].title, app)
