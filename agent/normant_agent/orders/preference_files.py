"""Orders about preference files: change values in them, put them back, send them."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec

from normant_core.base.errors import FileError, NormantError
from normant_core.base.guard import forbidden_path
from normant_core.base.wording import app_title
from normant_core.catalogue.settings import Kind, ValueFault, catalogue
from normant_core.dialects.dialect import Binding, BoundFile
from normant_core.dialects.native import decode
from normant_core.dialects.preferences import native_of, without_secrets, write_value
from normant_core.formats.kinds import read_file
from normant_core.orders.kinds import LIMIT_FILES, LIMIT_FILES_BYTES, Change, Receipt, Result, SetPreference
from normant_core.seat.facts import Facts

from ..errors import Refused, Waiting
from ..files import digest, free_to_write, inside, read
from ..journal import Entry, Touched, holds
from .work import Work


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a file is to say: each change, and nothing else of it; with a `content`, that whole."""

    file: BoundFile
    app: str
    changes: Sequence[Change]
    idle_seconds: int
    content: bytes | None = None


def set_preference(work: Work, order: str, action: SetPreference, entry: Entry | None) -> Receipt:
    """Change the values, and nothing else of the file; read back what the application made of them."""
    return work.close(*written(work, order, wanted_of(work, action), entry))


def wanted_of(work: Work, action: SetPreference) -> Wanted:
    """What the order wants of its file. Raises Refused where no dialect has it."""
    return Wanted(work.file(action.app, action.file), action.app, action.changes, action.close_when_idle_seconds)


def written(work: Work, order: str, wanted: Wanted, entry: Entry | None) -> tuple[Entry, Receipt]:
    """Write it and read it back, with the order not over yet: what comes after is to be done before it is."""
    file = wanted.file
    path = inside(work.host.preference_root, file.path, wanted.app)
    if entry and entry.held:  # it was written before the crash; the application may have rewritten it since
        return _read_back(work, entry, file, changes=wanted.changes)
    content, after, _ = prepared(path, wanted, entry, work.facts)
    reopen = bool(entry and entry.reopen)
    if after != content and file.close_before_write:
        reopen |= work.closed(order, wanted.app, wanted.idle_seconds)
    work.step(order, "checking")
    # An application may write its preferences when it closes: look once more.
    content, after, touched = prepared(path, wanted, entry, work.facts)
    work.step(order, "saving")
    # Where there is still something to write, what the file holds is not ours, whatever was kept at another try.
    work.journal.keep(order, content, anew=after != content)
    begun = work.journal.put(Entry(order, file.path, wanted.app, file.name, touched=touched, reopen=reopen))
    work.step(order, "applying")
    if after != content:
        _still(path, content)
        work.host.write(path, after, mark=order)
    held = work.journal.put(msgspec.structs.replace(begun, held=digest(after)))
    return _read_back(work, held, file, changes=wanted.changes)


def put_file_back(work: Work, order: str, earlier: Entry, *, entry: Entry | None, idle_seconds: int) -> Receipt:
    """The kept bytes, where the file is still ours; else the single values that are."""
    file = work.file(earlier.app, earlier.file_name, at=earlier.file)
    path = inside(work.host.preference_root, earlier.file, earlier.app)
    content, copy = read(path), work.journal.copy_of(earlier.order)
    reopen = bool(entry and entry.reopen)
    if content != copy:
        free_to_write(path)
        if file.close_before_write:
            reopen |= work.closed(order, earlier.app, idle_seconds)
        content = read(path)
    work.step(order, "checking")
    work.step(order, "saving")
    work.journal.keep(order, content)
    begun = work.journal.put(Entry(order, app=earlier.app, reopen=reopen))
    work.step(order, "applying")
    exact = content == copy or holds(earlier, content)
    results, wanted = ((), copy) if exact else _restored(earlier, file, content)
    if wanted != content:
        _still(path, content)
        work.host.write(path, wanted, mark=order)
    work.step(order, "reading_back")
    if reopen:
        work.host.reopen(earlier.app)
    now = read(path)
    same, message = now == wanted, "" if exact else _told_singly(results)
    if not same:
        stands = _holds_before(earlier, file, now)
        message = f"{path.name} was changed by another program; the changes were undone"
        if not stands:
            message = f"{app_title(earlier.app)} rewrote the file when it opened"
    done = same or stands
    receipt = Receipt(order, "done" if done else "accepted_as", results, message, exact=exact and same)
    return work.close(msgspec.structs.replace(begun, reopen=False), receipt)


def send_files(work: Work, order: str, app: str) -> Receipt:
    """The files in the folders of an application's dialect. Raises Refused where there is none, or too much."""
    root = work.host.preference_root
    files = [file for dialect in work.dialects if dialect.app == app for file in dialect.file]
    if not files:
        raise Refused(f"no dialect of {app} speaks for what is installed here")
    folders = {inside(root, file.path, app).parent for file in files}
    own = {file.path for file in files}  # right under the root lie those of all applications
    contents, size = dict[str, bytes](), 0
    for path in sorted(path for folder in folders if folder.is_dir() for path in folder.iterdir()):
        name = path.relative_to(root).as_posix()
        unfit = path.is_symlink() or not path.is_file() or forbidden_path(name, app)
        if unfit or (path.parent == root and name not in own):
            continue
        size += path.stat().st_size
        if size > LIMIT_FILES_BYTES or len(contents) == LIMIT_FILES:
            limit = f"{LIMIT_FILES} files and {LIMIT_FILES_BYTES:,} bytes"
            raise Refused(f"the preference folders of {app} hold more than {limit}: bring the files by hand")
        if (content := without_secrets(path.name, read(path))) is not None:
            contents[name] = content
    return Receipt(order, "done", files=contents)


def prepared(path: Path, wanted: Wanted, entry: Entry | None, facts: Facts) -> tuple[bytes, bytes, tuple[Touched, ...]]:
    """The file's bytes, the bytes it shall have, and each change with what it replaces."""
    content = read(path)
    touched = _compare(wanted.file, wanted.changes, content, entry)
    for change in wanted.changes:
        _check_native(wanted, change, facts)
    free_to_write(path)
    after = _changed(wanted.file, content, touched) if wanted.content is None else wanted.content
    return content, after, touched


def _check_native(wanted: Wanted, change: Change, facts: Facts) -> None:
    """Raises Refused for a text that is none of the setting's kind, or a folder that nobody may name."""
    try:
        value = decode(binding_of(wanted.file, change.setting), change.native, facts)
    except (NormantError, ValueFault) as why:
        raise Refused(f"{change.setting} cannot be {change.native[:40]!r}: {why}") from why
    if catalogue()[change.setting].kind is Kind.PATH and (bad := forbidden_path(str(value), wanted.app)):
        raise Refused(f"{change.setting} cannot be {str(value)[:120]!r}: {bad}")


def _read_back(work: Work, entry: Entry, file: BoundFile, *, changes: Sequence[Change]) -> tuple[Entry, Receipt]:
    work.step(entry.order, "reading_back")
    if entry.reopen:
        work.host.reopen(entry.app)
    content = read(inside(work.host.preference_root, file.path, entry.app))
    results = []
    for change, touched in zip(changes, entry.touched, strict=True):
        binding = binding_of(file, change.setting)
        now = native_of(file, binding, content) or ""
        results.append(_result(binding, change, touched, now, facts=work.facts))
    whole = all(result.outcome == "done" for result in results)
    message = "; ".join(result.message for result in results if result.message)
    receipt = Receipt(entry.order, "done" if whole else "accepted_as", tuple(results), message)
    touched_now = tuple(msgspec.structs.replace(t, after=r.after) for t, r in zip(entry.touched, results, strict=True))
    done = msgspec.structs.replace(entry, held=digest(content), touched=touched_now, reopen=False)
    return work.journal.put(done), receipt


def _compare(file: BoundFile, changes: Sequence[Change], content: bytes, entry: Entry | None) -> tuple[Touched, ...]:
    """Every change with what the file holds. Raises Refused where that is not what the plan saw."""
    before = {touched.setting: touched for touched in entry.touched} if entry else {}
    touched_files = list[Touched]()
    for change in changes:
        binding = binding_of(file, change.setting)
        held = native_of(file, binding, content)
        here = held or ""
        if here not in (change.expected, change.native):
            raise Refused(
                f"{change.setting} has changed since the plan was made: the plan has {change.expected!r}, "
                f"{file.path} holds {here!r}; look at the seat and plan again"
            )
        was = before.get(change.setting) or Touched(change.setting, binding.at, here, "", added=held is None)
        touched_files.append(msgspec.structs.replace(was, after=change.native))
    return tuple(touched_files)


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
    parts = [f"restored {', '.join(restored)} alone"] if restored else []
    return "; ".join(["the file was changed since", *parts, *stay])


def binding_of(file: BoundFile, setting: str) -> Binding:
    """The address of a setting in a file. Raises Refused where the file does not hold it."""
    bound = file.bound(setting)
    if bound is None:
        raise Refused(f"the file {file.name!r} of the dialect does not hold {setting}")
    return bound


def _changed(file: BoundFile, content: bytes, touched: Sequence[Touched]) -> bytes:
    for change in touched:
        binding = binding_of(file, change.setting)
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
    message = f"accepted as {setting.show(value)}, asked for {asked}"
    return Result(change.setting, "accepted_as", touched.before, now, setting.plain(value), message)


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
