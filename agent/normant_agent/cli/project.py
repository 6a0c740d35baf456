"""The command line for projects: `normant project check`. A project is read, and never written."""

import fnmatch
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError, NormantError
from normant_core.base.quantities import Dimension, show
from normant_core.base.wording import counted
from normant_core.care.project_file import ProjectAddresses, read_project
from normant_core.care.projects import CheckedProject, check_project
from normant_core.dialects.dialect import Dialect, parse_dialect
from normant_core.seat.facts import Facts

from ..care.media_files import looking
from ..errors import HostError
from ..files import read
from ..hosts.here import this_machine
from .output import Format, bad_input

project = typer.Typer(no_args_is_help=True, add_completion=False, help="The media of a project. Nothing is written.")
SHOWN = 5  # paths of one trouble that are printed


@project.callback()
def _project() -> None:
    """The media of a project."""


@project.command()
def check(
    file: Annotated[Path, typer.Argument(help="A project file.")],
    dialect: Annotated[Path, typer.Option(help="The dialect of its application, TOML, with [[project]].")],
    storage: Annotated[Path | None, typer.Option(help="The folder that the production's media belong in.")] = None,
    media: Annotated[Path | None, typer.Option(help="Base folder for relative paths.")] = None,
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say what is listed twice, unused, missing, misplaced and odd, with its bytes and what to do."""
    with bad_input(DocumentError, HostError, NormantError):
        spoken = parse_dialect(read(dialect).decode("utf-8", "replace"), str(dialect))
        bound = _bound(spoken, file, dialect)
        try:
            with file.open("rb") as opened:
                made = read_project(opened, str(file), bound)
        except OSError as fault:
            raise HostError(f"{file} cannot be read: {fault.strerror}") from fault
        checked = check_project(made, looking(_facts(), media or file.resolve().parent, storage))
    if output is Format.JSON:
        typer.echo(msgspec.json.encode({"project": str(file), "version": made.version, **asdict(checked)}).decode())
        return
    _print(checked, made.version)


def _bound(dialect: Dialect, file: Path, source: Path) -> ProjectAddresses:
    """The manner of projects that the file's name is of. Raises NormantError."""
    bound = next((b for b in dialect.project if fnmatch.fnmatch(file.name.lower(), b.files.lower())), None)
    if bound is None:
        known = ", ".join(b.files for b in dialect.project) or "nothing"
        raise NormantError(f"{file.name} is no project that {source.name} tells of: it names {known}")
    return bound


def _facts() -> Facts:
    try:
        return this_machine(Path()).see(()).facts
    except HostError:
        return Facts()  # then nothing is said of volumes


def _print(checked: CheckedProject, version: str) -> None:
    used = f"{counted(checked.items, 'item')}, {checked.used:,} used"
    size, unused = (show(n, Dimension.BYTES, unit="GB") for n in (checked.size, checked.unused))
    typer.echo(f"{used}; {size} of media, {unused} unused{f'; saved by {version}' if version else ''}")
    for trouble in checked.troubles:
        more = f" and {len(trouble.paths) - SHOWN:,} more" if trouble.paths[SHOWN:] else ""
        paths = ", ".join(trouble.paths[:SHOWN]) + more
        size = f" ({show(trouble.size, Dimension.BYTES, unit='GB')})" if trouble.size else ""
        typer.echo(f"{trouble.trouble}: {paths}{size}: {trouble.why}; {trouble.do}")
