"""The command line for preference files: `normant get` and `set`."""

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from normant_core.base.errors import FileError
from normant_core.formats.kinds import READERS, read_file, recognised
from normant_core.formats.span import LIMIT_BYTES, Entry, PreferenceFile, Scalar

from ..errors import HostError
from ..files import read, write_atomically
from .output import Format, bad_input, say

files = typer.Typer()

File = Annotated[Path, typer.Argument(metavar="FILE", help="A preference file.")]
As = Annotated[str, typer.Option("--as", metavar="FORMAT", help=f"Its format: {', '.join(READERS)}.")]
Output = Annotated[Format, typer.Option("--format", help="How to print.")]


@files.command("get")
def get_command(
    file: File,
    at: Annotated[list[str] | None, typer.Argument(metavar="[AT]...", help="Addresses; default: all.")] = None,
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
        at, word = split_assignment(change, "AT=VALUE")
        return at, Scalar.of_word(word)
    at, wanted = change[:cut], Scalar.of_word(change[cut + 1 :])
    if wanted.kind == "text" and known[at].kind in ("date", "data"):
        return at, known[at].like(wanted.raw)
    return at, wanted


def split_assignment(word: str, shape: str) -> tuple[str, str]:
    """Split `name=value`; `shape` says what was expected. Raises FileError where it is not written so."""
    name, sign, value = word.partition("=")
    if not sign or not name:
        raise FileError(f"{word!r}: expected {shape}")
    return name, value
