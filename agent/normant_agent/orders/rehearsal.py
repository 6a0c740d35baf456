"""A rehearsal: everything that orders look at is looked at, and nothing is touched, closed or asked."""

from collections.abc import Iterator

from normant_core.base.errors import NormantError
from normant_core.base.wording import app_title
from normant_core.dialects.preferences import native_of
from normant_core.orders.kinds import (
    Correction,
    InstallDriver,
    MoveStore,
    PlaceTemplate,
    Receipt,
    Rehearse,
    Result,
    SetGpuPreference,
    SetPreference,
    settings_of,
)

from ..errors import AgentError, Refused, Waiting
from ..files import inside
from ..journal import Entry
from .preference_files import Wanted, binding_of, prepared, wanted_of
from .stores import folders_of, size_that_fits, switch_of
from .system import asked, name_of
from .templates import template_of
from .work import Work, compared

COPIES = 3  # of a file: the one that is kept, the one beside it, and room for the journal


def rehearse(work: Work, order: str, action: Rehearse) -> Receipt:
    """What would become of each change."""
    results = [result for inner in action.actions for result in _would(work, inner)]
    return work.close(Entry(order), Receipt(order, "done", tuple(results)))


def _would(work: Work, action: Correction) -> list[Result]:
    try:
        return list(_foreseen(work, action))
    except Waiting as why:
        outcome, reason = "waits", str(why)
    except Refused as why:
        outcome, reason = "refused", str(why)
    except (AgentError, NormantError) as why:
        outcome, reason = "failed", str(why)
    return [Result(setting, outcome, message=reason) for setting in settings_of(action)]


def _foreseen(work: Work, action: Correction) -> Iterator[Result]:
    """What would happen to each setting. Raises what the order itself would raise."""
    match action:
        case SetPreference():
            yield from _in_file(work, wanted_of(work, action))
        case PlaceTemplate():
            for result in _in_file(work, template_of(work, action)):
                message = "; ".join(filter(None, ("the whole file would be replaced after a backup", result.message)))
                yield _result(result.setting, result.before, result.after, message)
        case MoveStore():
            source, _ = folders_of(work, action)
            size = size_that_fits(work, action, source)
            for result in _in_file(work, switch_of(work, action)):
                message = f"{size:,} bytes would be copied and verified first" if size else "no files to copy"
                yield _result(result.setting, result.before, result.after, message)
        case InstallDriver():
            here = work.host.driver_version(action.gpu)
            compared("the driver", here, action.expected, action.version)
            back = "" if action.older else "; cannot be undone: there is no package of the current driver"
            message = "" if here == action.version else f"it would be installed and the machine restarted{back}"
            yield _result("driver.version", here, action.version, message)
        case _:
            setting, app, wanted = asked(action)
            here = work.host.system_value(setting, app)
            compared(name_of(setting, app), here, action.expected, wanted)
            closes = isinstance(action, SetGpuPreference) and here != wanted
            message = _closing(work, app, action.close_when_idle_seconds) if closes else ""  # type: ignore[union-attr]
            yield _result(setting, here, wanted, message)


def _in_file(work: Work, wanted: Wanted) -> Iterator[Result]:
    file = wanted.file
    path = inside(work.host.preference_root, file.path, wanted.app)
    content, after, _ = prepared(path, wanted, None, work.facts)
    work.host.check_room(path, COPIES * len(content))
    changes = after != content and file.close_before_write
    closing = _closing(work, wanted.app, wanted.idle_seconds) if changes else ""
    for change in wanted.changes:
        here = native_of(file, binding_of(file, change.setting), content) or ""
        yield _result(change.setting, here, change.native, closing)


def _result(setting: str, here: str, wanted: str, message: str) -> Result:
    if here == wanted:
        return Result(setting, "holds_it", here, wanted, message="already correct")
    return Result(setting, "would_do", here, wanted, message=message)


def _closing(work: Work, app: str, idle_seconds: int) -> str:
    """What would become of the application. Raises Waiting where something would be lost."""
    if not work.host.is_running(app):
        return ""
    name = app_title(app)
    if work.needed(app, idle_seconds):
        return f"{name} is open: the editor would be asked, or the seat would wait until they are away"
    return f"{name} would be closed and opened again"
