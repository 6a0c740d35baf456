"""A dialect applied to an application's files: what they say, and the bytes that say something else."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..base.errors import FileError, NormantError
from ..base.guard import is_secret_key, secret_value
from ..catalogue.settings import catalogue
from ..formats.kinds import read_file, recognised
from ..formats.span import Entry, PreferenceFile, Scalar, is_writable_text
from ..seat.facts import Facts
from ..seat.survey import Native, Reading, Unreadable
from .dialect import Binding, BoundFile, Dialect
from .native import absent, decode, scalar

HIDDEN = "hidden"  # what stands in the place of a secret
MOST_TOLD = 3  # files that a sentence names


@dataclass(frozen=True, slots=True)
class Visit:
    """What reading an application's files gave."""

    readings: tuple[Reading, ...]
    errors: tuple[Unreadable, ...]


def read_files(dialect: Dialect, contents: Mapping[str, bytes | str], facts: Facts | None = None) -> Visit:
    """Readings from the files' bytes by path; a text in place of bytes is the reason it could not be read.

    `dialect` is the one that the installed application speaks (`Dialect.spoken_by`).
    """
    readings, errors = list[Reading](), list[Unreadable]()
    for file in dialect.file:
        for result in _read_file(dialect.app, file, contents, facts):
            if isinstance(result, Reading):
                readings.append(result)
            else:
                errors.append(result)
    return Visit(tuple(readings), tuple(errors))


def _read_file(
    app: str, file: BoundFile, contents: Mapping[str, bytes | str], facts: Facts | None
) -> list[Reading | Unreadable]:
    """What a file of a dialect, or each of its many, says of every setting that it binds."""
    there = sorted(filter(file.is_at, contents)) if file.many else [file.path]
    try:
        parsed = {path: _parsed(file, path, contents) for path in there or [file.path]}
    except FileError as wrong:
        return [Unreadable(f"dialect:{app}", str(wrong))]
    return [_read_binding(app, binding, parsed, facts) for binding in file.binding]


def _read_binding(
    app: str, binding: Binding, parsed: Mapping[str, PreferenceFile], facts: Facts | None
) -> Reading | Unreadable:
    """What the files, by path, say of one setting: all of them the same."""
    try:
        return _agreed([_reading(app, path, binding, file, facts) for path, file in parsed.items()])
    except NormantError as wrong:
        return Unreadable(f"dialect:{app}:{binding.setting}", str(wrong))


def _parsed(file: BoundFile, path: str, contents: Mapping[str, bytes | str]) -> PreferenceFile:
    content = contents.get(path, "there is no such file")
    if isinstance(content, str):
        raise FileError(f"{path}: {content}")
    try:
        return read_file(content, file.format)
    except FileError as wrong:
        raise FileError(f"{path}: {wrong}") from wrong


def _agreed(readings: Sequence[Reading]) -> Reading:
    """What all files say. Raises FileError where they do not say the same: no one value is the seat's."""
    first = readings[0]
    if all(reading.value == first.value for reading in readings):
        return first
    setting = catalogue()[first.setting]
    read_here = [
        f"{reading.native.file} says {setting.show(setting.parse(reading.value))}"
        for reading in readings
        if reading.native
    ]
    more = f" and {len(read_here) - MOST_TOLD} more" if len(read_here) > MOST_TOLD else ""
    raise FileError(f"the files differ: {', '.join(read_here[:MOST_TOLD])}{more}")


def without_secrets(name: str, content: bytes) -> bytes | None:
    """A preference file as it may be shown to people: what is called or looks like a secret is hidden in it.

    None for one that cannot be read as preferences, or in which that cannot be done: nobody is shown it.
    """
    try:
        parsed = read_file(content, recognised(name, content))
        secret = {
            entry.at: Scalar("text", HIDDEN)
            for entry in parsed.entries()
            if entry.raw and entry.kind != "bool" and (secret_value(entry.raw) or is_secret_key(entry.at))
        }
        return parsed.write(secret) if secret else content
    except FileError:
        return None


def here(parsed: PreferenceFile, at: str) -> Entry | None:
    """The value at `at`, None where the file does not hold one."""
    try:
        return parsed.get(at)
    except FileError:
        return None


def native_of(file: BoundFile, binding: Binding, content: bytes) -> str | None:
    """The native text that a file holds for a binding; None while the key is absent and that has a meaning.

    Raises FileError where there is none and none is expected.
    """
    parsed = read_file(content, file.format)
    if binding.missing is None:
        return parsed.get(binding.at).raw
    entry = here(parsed, binding.at)
    return entry.raw if entry else None


def write_value(file: BoundFile, binding: Binding, content: bytes, native: str) -> bytes:
    """The file's bytes with one value changed, or added where the file may leave it out. Raises FileError."""
    parsed = read_file(content, file.format)
    if binding.missing is not None and here(parsed, binding.at) is None:
        return parsed.write({binding.at: scalar(binding, native)})
    return parsed.replace(binding.at, native)


def _check_tellable(raw: str) -> None:
    """Raises FileError for native text that no survey carries: what is no whole text, and what looks like a secret."""
    if "\0" in raw:
        raise FileError("the text there holds the character NUL")
    if not is_writable_text(raw):
        raise FileError("the text there holds half of a character")
    if why := secret_value(raw):
        raise FileError(f"{why}, and is told to nobody")


def _reading(app: str, path: str, binding: Binding, parsed: PreferenceFile, facts: Facts | None) -> Reading:
    setting, entry = catalogue()[binding.setting], here(parsed, binding.at)
    if entry is None and (value := absent(binding)) is not None:
        return Reading(binding.setting, setting.plain(value), app, Native(path, binding.at, ""))
    try:
        entry = entry or parsed.get(binding.at)
        _check_tellable(entry.raw)
        value = setting.plain(decode(binding, entry.raw, facts))
    except NormantError as wrong:
        raise FileError(f"{path}: {binding.at}: {wrong}") from wrong
    return Reading(binding.setting, value, app, Native(path, binding.at, entry.raw, entry.line))
