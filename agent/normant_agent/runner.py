"""Carries out one order: check, keep a copy, write, read back. Run again after a crash it ends in the same state."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Literal

import msgspec

from normant_core.catalogue import catalogue
from normant_core.dialect import Binding, BoundFile, Dialect
from normant_core.errors import FileError, NormantError
from normant_core.facts import Facts
from normant_core.formats.kinds import read_file
from normant_core.native import decode
from normant_core.orders import (
    LIMIT_FILES,
    LIMIT_FILES_BYTES,
    Change,
    Order,
    Progress,
    PutBack,
    Receipt,
    Result,
    SendFiles,
    SetPowerProfile,
    SetPreference,
    SurveyNow,
)
from normant_core.preferences import native_of, write_value

from .errors import AgentError, JournalError, Refused, Waiting
from .files import digest, free_to_write, inside, read
from .host import Host
from .journal import Entry, Journal, Touched, holds
from .seal import expired

Report = Callable[[str, Progress], None]
Step = Literal["waiting", "checking", "saving", "applying", "reading_back"]


class Runner:
    """Carries out orders on one host; `report` is told each step of an order."""

    def __init__(
        self, host: Host, journal: Journal, dialects: Sequence[Dialect], report: Report, *, facts: Facts | None = None
    ) -> None:
        self.host, self.journal, self.report = host, journal, report
        self.dialects, self.facts = list(dialects), facts or Facts()

    def run(self, order: Order) -> Receipt:
        """The receipt; a replay gives the first one again. Raises Waiting where the moment has not come.

        Raises JournalError where nothing can be remembered now: run it again, and it goes on from where it was.
        """
        entry = self.journal.get(order.id)
        if entry and entry.receipt:
            return entry.receipt
        # An order that was begun is ended even when its time has passed meanwhile: never between.
        if entry is None and expired(order, self.host.now()):
            return self._close(Entry(order.id), Receipt(order.id, "expired", message="the order's time was over"))
        try:
            return self._act(order, entry)
        except (Waiting, JournalError):
            raise
        except Refused as why:
            return self._given_up(order.id, "refused", why)
        except (AgentError, NormantError) as why:
            return self._given_up(order.id, "failed", why)

    def _given_up(self, order: str, outcome: Literal["refused", "failed"], why: Exception) -> Receipt:
        """The receipt of an order that came to nothing; an application that was closed for it is opened again."""
        entry = self.journal.get(order) or Entry(order)
        if entry.reopen:
            self.host.reopen(entry.app)
        return self._close(msgspec.structs.replace(entry, reopen=False), Receipt(order, outcome, message=str(why)))

    def _act(self, order: Order, entry: Entry | None) -> Receipt:
        match order.action:
            case SetPreference() as action:
                return self._set_preference(order.id, action, entry)
            case SetPowerProfile() as action:
                return self._set_power(order.id, action, entry)
            case PutBack() as action:
                return self._put_back(order.id, action, entry)
            case SurveyNow():
                return self._close(Entry(order.id), Receipt(order.id, "done"))
            case SendFiles():
                return self._close(Entry(order.id), Receipt(order.id, "done", files=self._files(order.action.app)))
        raise Refused("this is nothing that an agent does")

    def _set_preference(self, order: str, action: SetPreference, entry: Entry | None) -> Receipt:
        file = self._file(action.app, action.file)
        path = inside(self.host.preference_root, file.path)
        if entry and entry.held:  # it was written before the crash; the application may have rewritten it since
            return self._read_back(entry, file, path, action.changes)
        content, after, _ = self._prepared(file, path, action.changes, entry)
        reopen = bool(entry and entry.reopen)
        if after != content:
            reopen |= self._closed(order, action.app, action.close_when_idle_seconds, file)
        self._step(order, "checking")
        # An application may write its preferences when it closes: look once more.
        content, after, touched = self._prepared(file, path, action.changes, entry)
        self._step(order, "saving")
        # Where there is still something to write, what the file holds is not ours, whatever was kept at another try.
        self.journal.keep(order, content, anew=after != content)
        begun = self.journal.put(Entry(order, file.path, action.app, file.name, touched=touched, reopen=reopen))
        self._step(order, "applying")
        if after != content:
            _still(path, content)
            self.host.write(path, after, mark=order)
        written = self.journal.put(msgspec.structs.replace(begun, held=digest(after)))
        return self._read_back(written, file, path, action.changes)

    def _prepared(
        self, file: BoundFile, path: Path, changes: Sequence[Change], entry: Entry | None
    ) -> tuple[bytes, bytes, tuple[Touched, ...]]:
        """The file's bytes, the bytes it shall have, and each change with what it replaces."""
        content = read(path)
        touched = self._compare(file, changes, content, entry)
        free_to_write(path)
        return content, _written(file, content, touched), touched

    def _read_back(self, entry: Entry, file: BoundFile, path: Path, changes: Sequence[Change]) -> Receipt:
        self._step(entry.order, "reading_back")
        if entry.reopen:
            self.host.reopen(entry.app)
        content = read(path)
        results = []
        for change, touched in zip(changes, entry.touched, strict=True):
            binding = _binding(file, change.setting)
            now = native_of(file, binding, content) or ""
            results.append(_result(binding, change, touched, now, facts=self.facts))
        whole = all(result.outcome == "done" for result in results)
        message = "; ".join(result.message for result in results if result.message)
        receipt = Receipt(entry.order, "done" if whole else "accepted_as", tuple(results), message)
        touched_now = tuple(
            msgspec.structs.replace(t, after=r.after) for t, r in zip(entry.touched, results, strict=True)
        )
        done = msgspec.structs.replace(entry, held=digest(content), touched=touched_now, reopen=False)
        return self._close(done, receipt)

    def _compare(
        self, file: BoundFile, changes: Sequence[Change], content: bytes, entry: Entry | None
    ) -> tuple[Touched, ...]:
        """Every change with what the file holds. Raises Refused where that is not what the plan saw."""
        before = {touched.setting: touched for touched in entry.touched} if entry else {}
        found = list[Touched]()
        for change in changes:
            binding = _binding(file, change.setting)
            held = native_of(file, binding, content)
            here = held or ""
            if here not in (change.expected, change.native):
                raise Refused(
                    f"{change.setting} was changed meanwhile: the plan saw {change.expected!r}, "
                    f"{file.path} holds {here!r}; look at the seat and plan again"
                )
            was = before.get(change.setting) or Touched(change.setting, binding.at, here, "", added=held is None)
            found.append(msgspec.structs.replace(was, after=change.native))
        return tuple(found)

    def _closed(self, order: str, app: str, idle_seconds: int, file: BoundFile) -> bool:
        """Whether the application was open and has been closed. Raises Waiting where its editor needs it."""
        if not file.close_before_write or not self.host.is_running(app):
            return False
        activity = self.host.activity()
        name = app.capitalize()
        if activity.unsaved:
            raise Waiting(f"{name} is open with unsaved work; waiting until it is saved")
        if activity.rendering:
            raise Waiting(f"{name} is open and renders; waiting until it has finished")
        if activity.idle_seconds is None or activity.idle_seconds < idle_seconds:
            minutes = max(1, idle_seconds // 60)
            raise Waiting(f"{name} is open and its editor is busy; waiting until it was idle for {minutes} min")
        self.journal.put(Entry(order, app=app, reopen=True))
        self.host.close(app)
        return True

    def _set_power(self, order: str, action: SetPowerProfile, entry: Entry | None) -> Receipt:
        self._step(order, "checking")
        here = self.host.power_profile()
        if here not in (action.expected, action.profile):
            raise Refused(f"the power profile was changed meanwhile: the plan saw {action.expected}, it is {here}")
        self._step(order, "saving")
        begun = entry or self.journal.put(Entry(order, profile_before=here, profile_after=action.profile))
        self._step(order, "applying")
        if (now := self.host.power_profile()) != here:
            raise Refused(f"the power profile was changed meanwhile, to {now}; it stays")
        if here != action.profile:
            self.host.set_power_profile(action.profile)
        self._step(order, "reading_back")
        now = self.host.power_profile()
        done = now == action.profile
        told = "" if done else f"accepted as {now}, asked for {action.profile}"
        result = Result("power.profile", "done" if done else "accepted_as", begun.profile_before, now, now, told)
        receipt = Receipt(order, "done" if done else "accepted_as", (result,), told)
        return self._close(msgspec.structs.replace(begun, profile_after=now), receipt)

    def _put_back(self, order: str, action: PutBack, entry: Entry | None) -> Receipt:
        earlier = self.journal.get(action.order)
        if earlier is None or not (earlier.touched or earlier.profile_before):
            raise Refused(f"this seat changed nothing for order {action.order}")
        if earlier.profile_before:
            return self._put_back_power(order, earlier)
        file = self._file(earlier.app, earlier.file_name)
        path = inside(self.host.preference_root, earlier.file)
        content, copy = read(path), self.journal.kept(action.order)
        reopen = bool(entry and entry.reopen)
        if content != copy:
            free_to_write(path)
            reopen |= self._closed(order, earlier.app, action.close_when_idle_seconds, file)
            content = read(path)
        self._step(order, "checking")
        self._step(order, "saving")
        self.journal.keep(order, content)
        begun = self.journal.put(Entry(order, app=earlier.app, reopen=reopen))
        self._step(order, "applying")
        exact = content == copy or holds(earlier, content)
        results, wanted = ((), copy) if exact else _restored(earlier, file, content)
        if wanted != content:
            _still(path, content)
            self.host.write(path, wanted, mark=order)
        self._step(order, "reading_back")
        if reopen:
            self.host.reopen(earlier.app)
        now = read(path)
        same, message = now == wanted, "" if exact else _told_singly(results)
        if not same:
            stands = _holds_before(earlier, file, now)
            message = f"{path.name} was written by others meanwhile; what was changed is as before"
            if not stands:
                message = f"{earlier.app.capitalize()} rewrote the file when it opened"
        done = same or stands
        receipt = Receipt(order, "done" if done else "accepted_as", results, message, exact=exact and same)
        return self._close(msgspec.structs.replace(begun, reopen=False), receipt)

    def _put_back_power(self, order: str, earlier: Entry) -> Receipt:
        for step in ("checking", "saving", "applying"):
            self._step(order, step)
            here = self.host.power_profile()
            if here not in (earlier.profile_after, earlier.profile_before):
                raise Refused(f"the power profile was changed since, to {here}; it stays")
        self.host.set_power_profile(earlier.profile_before)
        self._step(order, "reading_back")
        now = self.host.power_profile()
        done = now == earlier.profile_before
        told = "" if done else f"it is {now}, asked for {earlier.profile_before}"
        result = Result("power.profile", "done" if done else "accepted_as", here, now, message=told)
        return self._close(Entry(order), Receipt(order, "done" if done else "accepted_as", (result,), told))

    def _files(self, app: str) -> dict[str, bytes]:
        """The files in the folders of an application's dialect. Raises Refused where there is none, or too much."""
        root = self.host.preference_root
        folders = {inside(root, f.path).parent for dialect in self.dialects if dialect.app == app for f in dialect.file}
        if not folders:
            raise Refused(f"no dialect of {app} speaks for what is installed here")
        found, size = dict[str, bytes](), 0
        for path in sorted(path for folder in folders if folder.is_dir() for path in folder.iterdir()):
            if path.is_symlink() or not path.is_file():
                continue
            size += path.stat().st_size
            if size > LIMIT_FILES_BYTES or len(found) == LIMIT_FILES:
                told = f"{LIMIT_FILES} files and {LIMIT_FILES_BYTES:,} bytes"
                raise Refused(f"the preference folders of {app} hold more than {told}: bring the files by hand")
            found[path.relative_to(root).as_posix()] = read(path)
        return found

    def _file(self, app: str, name: str) -> BoundFile:
        files = [file for dialect in self.dialects if dialect.app == app for file in dialect.file]
        found = next((file for file in files if file.name == name), None)
        if found is None:
            raise Refused(f"no dialect of {app} has a file {name!r}")
        if found.many:
            raise Refused(f"{name!r} of {app} stands for several files, which are not written")
        return found

    def _step(self, order: str, step: Step) -> None:
        self.report(order, Progress(step))

    def _close(self, entry: Entry, receipt: Receipt) -> Receipt:
        dated = msgspec.structs.replace(receipt, at=self.host.now())
        self.journal.put(msgspec.structs.replace(entry, receipt=dated))
        return dated


def _still(path: Path, content: bytes) -> None:
    """Raises Waiting where somebody wrote the file at this very moment: what they wrote is looked at first."""
    if read(path) != content:
        raise Waiting(f"{path.name} was changed at this very moment; looking at it again")


def _holds_before(earlier: Entry, file: BoundFile, content: bytes) -> bool:
    """Whether every value that the order changed is what it was before, whatever else the file holds."""
    try:
        parsed = read_file(content, file.format)
        return all(not t.added and parsed.get(t.at).raw == t.before for t in earlier.touched)
    except FileError:
        return False


def _told_singly(results: Sequence[Result]) -> str:
    """Which single values were restored, and which stay."""
    restored = [result.setting for result in results if result.outcome == "restored_value"]
    stay = [result.message for result in results if result.message]
    told = [f"restored {', '.join(restored)} alone"] if restored else []
    return "; ".join(["the file was changed since", *told, *stay])


def _binding(file: BoundFile, setting: str) -> Binding:
    found = file.bound(setting)
    if found is None:
        raise Refused(f"the file {file.name!r} of the dialect does not hold {setting}")
    return found


def _written(file: BoundFile, content: bytes, touched: Sequence[Touched]) -> bytes:
    for change in touched:
        binding = _binding(file, change.setting)
        if native_of(file, binding, content) != change.after:
            content = write_value(file, binding, content, change.after)
    return content


def _result(binding: Binding, change: Change, touched: Touched, now: str, *, facts: Facts) -> Result:
    setting = catalogue()[change.setting]
    if now == change.native:
        return Result(change.setting, "done", touched.before, now, change.value)
    asked = setting.show(setting.parse(change.value))
    try:
        value = decode(binding, now, facts)
    except NormantError:
        return Result(
            change.setting, "accepted_as", touched.before, now, None, f"accepted as {now!r}, asked for {asked}"
        )
    told = f"accepted as {setting.show(value)}, asked for {asked}"
    return Result(change.setting, "accepted_as", touched.before, now, setting.plain(value), told)


def _restored(earlier: Entry, file: BoundFile, content: bytes) -> tuple[tuple[Result, ...], bytes]:
    """Single values put back where they are still ours; the file as it then is."""
    results = list[Result]()
    for touched in earlier.touched:
        if touched.added:
            message = "the file did not hold it before; take it out by hand"
            results.append(Result(touched.setting, "failed", message=message))
            continue
        try:
            parsed = read_file(content, file.format)
            here = parsed.get(touched.at).raw
        except FileError as why:
            results.append(Result(touched.setting, "failed", message=str(why)))
            continue
        if here in (touched.after, touched.before):
            content = parsed.replace(touched.at, touched.before)
            results.append(Result(touched.setting, "restored_value", here, touched.before))
        else:
            message = f"{touched.setting} is {here!r} by now; it stays"
            results.append(Result(touched.setting, "changed_meanwhile", here, here, message=message))
    return tuple(results), content
