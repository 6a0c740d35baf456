"""The command line for dialects: `normant read` and `write` an application's preferences, `dialect check`."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError, FileError
from normant_core.dialects.dialect import Dialect, parse_dialect

from ..errors import HostError
from ..files import read
from ..preferences.trial import as_spoken, read_folder, write_folder
from .files import Output, split_assignment
from .output import Format, bad_input

preferences = typer.Typer()
dialects = typer.Typer(no_args_is_help=True, help="Dialects of applications.")

Spoken = Annotated[Path, typer.Argument(metavar="DIALECT", help="A dialect, TOML.")]
Folder = Annotated[Path, typer.Argument(metavar="FOLDER", help="The preference root it is about.")]
OfVersion = Annotated[str, typer.Option("--app-version", help="Application version; default: the newest one found.")]
OfEdition = Annotated[str, typer.Option("--edition", help="The application's edition.")]
UNREAD = 1


@preferences.command("read")
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


@preferences.command("write")
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
        done = write_folder(spoken, folder, dict(split_assignment(word, "SETTING=VALUE") for word in wanted))
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
