"""The command line for preference files: `get`, `set`, `read`, `write`, `dialect check`."""

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError, FileError
from normant_core.dialects.dialect import Dialect, parse_dialect
from normant_core.formats.kinds import READERS, read_file, recognised
from normant_core.formats.span import LIMIT_BYTES, Entry, PreferenceFile, Scalar

from ..errors import HostError
from ..files import read, write_atomically
from ..preferences.trial import as_spoken, read_folder, write_folder
from .output import Format, bad_input, say

files = typer.Typer(add_completion=False)
dialects = typer.Typer(no_args_is_help=True, add_completion=False, help="Dialects of applications.")

File = Annotated[Path, typer.Argument(metavar="FILE", help="A preference file.")]
As = Annotated[str, typer.Option("--as", metavar="FORMAT", help=f"Its format: {', '.join(READERS)}.")]
Output = Annotated[Format, typer.Option("--format", help="How to print.")]
Spoken = Annotated[Path, typer.Argument(metavar="DIALECT", help="A dialect, TOML.")]
Folder = Annotated[Path, typer.Argument(metavar="FOLDER", help="The preference root it is about.")]
OfVersion = Annotated[str, typer.Option("--app-version", help="Else the newest whose files are there.")]
OfEdition = Annotated[str, typer.Option("--edition", help="The application's edition.")]
UNREAD = 1


@files.command("get")
def get_command(
    file: File,
    at: Annotated[list[str] | None, typer.Argument(metavar="[AT]...", help="Addresses; all when none.")] = None,
    format: As = "",
    output: Output = Format.TEXT,
) -> None:
    """Print values of a preference file by their addresses."""
    with bad_input(FileError, HostError, where=str(file)):
        parsed = _parsed(file, format)
        entries = [parsed.get(address) for address in at] if at else parsed.entries()
    spans = parsed.spans() if output is Format.JSON else {}
    for entry in entries:
        say(_as_object(entry, spans[entry.at]) if output is Format.JSON else f"{entry.at} = {entry.raw}")


@files.command("set")
def set_command(
    file: File,
    changes: Annotated[list[str], typer.Argument(metavar="AT=VALUE...", help="JSON where it parses, else text.")],
    format: As = "",
    in_place: Annotated[bool, typer.Option("--in-place", help="Change the file itself.")] = False,
) -> None:
    """Change values of a preference file; every other byte stays. Prints the file unless --in-place."""
    with bad_input(FileError, HostError, where=str(file)):
        parsed = _parsed(file, format)
        written = parsed.write(dict(_change(parsed, change) for change in changes))
        if in_place:
            write_atomically(file, written)
        else:
            sys.stdout.buffer.write(written)


@files.command("read")
def read_command(
    dialect: Spoken, folder: Folder, version: OfVersion = "", edition: OfEdition = "", output: Output = Format.TEXT
) -> None:
    """Print what an application's preferences under FOLDER say. Exit 1 where some could not be read."""
    spoken = _spoken(dialect, folder, version, edition)
    visit = read_folder(spoken, folder)
    for reading in visit.readings:
        if output is Format.JSON:
            typer.echo(msgspec.json.encode(reading).decode())
        else:
            assert reading.native
            value = json.dumps(reading.value, ensure_ascii=False)
            typer.echo(f"{reading.setting} = {value}    ({reading.native.file}:{reading.native.line or '-'})")
    for error in visit.errors:
        typer.echo(f"{error.source}: {error.message}", err=True)
    raise typer.Exit(UNREAD if visit.errors else 0)


@files.command("write")
def write_command(
    dialect: Spoken,
    folder: Folder,
    wanted: Annotated[list[str], typer.Argument(metavar="SETTING=VALUE...", help="With units: 6.4 GiB, 1/2, true.")],
    version: OfVersion = "",
    edition: OfEdition = "",
    output: Output = Format.TEXT,
) -> None:
    """Write settings into an application's preferences under FOLDER: all of them, or none."""
    spoken = _spoken(dialect, folder, version, edition)
    with bad_input(FileError, HostError):
        done = write_folder(spoken, folder, dict(_split(word, "SETTING=VALUE") for word in wanted))
    for result in done:
        if output is Format.JSON:
            typer.echo(json.dumps(asdict(result), ensure_ascii=False))
        else:
            typer.echo(
                f"{result.file}: {result.at}: {result.before or 'nothing'} -> {result.after}"
                f"    ({result.setting}: {result.value})"
            )


@dialects.command("check")
def check_dialects(paths: Annotated[list[Path], typer.Argument(metavar="DIALECT...", help="Dialects, TOML.")]) -> None:
    """Say what is wrong with dialects, and where. Exit 2 where something is."""
    faulty = False
    for path in paths:
        try:
            known = _dialect(path)
        except (DocumentError, HostError) as fault:
            typer.echo(str(fault), err=True)
            faulty = True
            continue
        count = sum(len(file.binding) for file in known.file)
        typer.echo(f"{path}: {known.title or known.app} {known.versions}: {count} settings in {len(known.file)} files")
    raise typer.Exit(2 if faulty else 0)


def _parsed(file: Path, format: str) -> PreferenceFile:
    if file.is_file() and file.stat().st_size > LIMIT_BYTES:
        raise FileError(f"the file has {file.stat().st_size:,} bytes; at most {LIMIT_BYTES:,} are read")
    raw = read(file)
    return read_file(raw, format or recognised(file.name, raw))


def _as_object(entry: Entry, span: tuple[int, int]) -> str:
    printable = {"at": entry.at, "value": entry.scalar.plain, "kind": entry.kind, "start": span[0], "end": span[1]}
    return json.dumps(printable, ensure_ascii=False)


def _change(parsed: PreferenceFile, change: str) -> tuple[str, Scalar]:
    """Addresses may hold `=` too: the longest one that the file has is meant, else the text before the first."""
    known = {entry.at: entry for entry in parsed.entries()}
    cuts = [place for place, sign in enumerate(change) if sign == "="]
    cut = next((place for place in reversed(cuts) if change[:place] in known), None)
    if cut is None:
        at, word = _split(change, "AT=VALUE")
        return at, Scalar.of_word(word)
    at, wanted = change[:cut], Scalar.of_word(change[cut + 1 :])
    if wanted.kind == "text" and known[at].kind in ("date", "data"):
        return at, known[at].like(wanted.raw)
    return at, wanted


def _split(word: str, shape: str) -> tuple[str, str]:
    name, sign, value = word.partition("=")
    if not sign or not name:
        raise FileError(f"{word!r}: expected {shape}")
    return name, value


def _dialect(path: Path) -> Dialect:
    try:
        return parse_dialect(read(path).decode(), str(path))
    except UnicodeDecodeError as fault:
        raise HostError(f"{path}: byte {fault.start} is not UTF-8") from fault


def _spoken(path: Path, folder: Path, version: str, edition: str) -> Dialect:
    with bad_input(DocumentError, HostError):
        if not folder.is_dir():
            raise HostError(f"{folder} is no folder: expected the preference root that the dialect's paths lie under")
        dialect, assumed = as_spoken(_dialect(path), folder, version, edition)
    if not version and "{version" in path.read_text("utf-8"):
        typer.echo(f"taken as version {assumed}; say another with --app-version", err=True)
    return dialect
