"""The command line, for a standard under review: `normant check`, `lint` and `impact`, without a server."""

import gc
import json
import sys
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError
from normant_core.house.impact import impact
from normant_core.house.lint import Doubt, lint
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge
from normant_core.standard.parse import starter
from normant_core.words.formats import as_junit, as_line, as_sarif, as_text

from .check import check, load_standard, read_house
from .output import Format, bad_input

standards = typer.Typer()
Surveys = Annotated[list[Path], typer.Argument(metavar="SURVEY...", help="Surveys, JSON, or NDJSON.")]
Register = Annotated[Path | None, typer.Option(help="CSV: seat,role,room,production.")]


class CheckFormat(StrEnum):
    """How verdicts are printed."""

    TEXT = "text"
    JSON = "json"
    JUNIT = "junit"


class LintFormat(StrEnum):
    """How doubts are printed."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"


@standards.command("check")
def check_command(
    house: Annotated[Path, typer.Argument(metavar="STANDARD", help="The house standard, TOML.")],
    surveys: Surveys,
    register: Register = None,
    output: Annotated[CheckFormat, typer.Option("--format")] = CheckFormat.TEXT,
    every: Annotated[bool, typer.Option("--all", help="Print what is in norm as well.")] = False,
) -> None:
    """Judge surveys by a standard. Exit 0: nothing off norm, 1: something is, 2: bad input."""
    gc.disable()  # a house is read, told and forgotten: there is nothing to collect, and looking takes a third
    with bad_input(DocumentError):
        results = list(check(load_standard(house), read_house(surveys, register), every=every or output == "junit"))
    if output is CheckFormat.JUNIT:
        typer.echo(as_junit((seat.seat, [line.verdict for line in seat.lines]) for seat in results))
    elif output is CheckFormat.JSON:
        each = {id(line): line for seat in results for line in seat.lines}  # many seats share one
        lines = {number: as_line(line.verdict) for number, line in each.items()}
        for seat in results:
            head = f'{{"seat": {json.dumps(seat.seat)}, '
            sys.stdout.writelines(f"{head}{lines[id(line)]}\n" for line in seat.lines)
    else:
        for seat in results:
            typer.echo("\n".join(as_text(seat.seat, [line.verdict for line in seat.lines])))
    raise typer.Exit(int(any(line.verdict.status == "off-norm" for seat in results for line in seat.lines)))


@standards.command("starter")
def starter_command() -> None:
    """Print a standard that a new facility can adopt and edit."""
    typer.echo(starter(), nl=False)


@standards.command("lint")
def lint_command(
    house: Annotated[Path, typer.Argument(metavar="STANDARD", help="The house standard, TOML.")],
    surveys: Annotated[list[Path] | None, typer.Argument(metavar="[SURVEY...]", help="Surveys of the house.")] = None,
    register: Register = None,
    output: Annotated[LintFormat, typer.Option("--format")] = LintFormat.TEXT,
) -> None:
    """Say what is doubtful in a standard. Exit 0: nothing but notes, 1: a warning, 2: bad input."""
    with bad_input(DocumentError):
        standard = load_standard(house)
        doubts = lint(standard, read_house(surveys, register) if surveys else None, house.read_text("utf-8"))
    if output is LintFormat.SARIF:
        typer.echo(json.dumps(as_sarif(str(house), doubts), indent=2))
    elif output is LintFormat.JSON:
        for doubt in doubts:
            typer.echo(msgspec.json.encode(doubt).decode())
    else:
        for doubt in doubts:
            typer.echo(_line(house, doubt))
    raise typer.Exit(int(any(doubt.level == "warning" for doubt in doubts)))


@standards.command("impact")
def impact_command(
    old: Annotated[Path, typer.Argument(help="The standard in force, TOML.")],
    new: Annotated[Path, typer.Argument(help="The standard that would follow, TOML.")],
    surveys: Surveys,
    register: Register = None,
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say what findings another standard would open, close and change. Exit 0: none, 1: some, 2: bad input."""
    with bad_input(DocumentError):
        house = read_house(surveys, register)
        before = Standing(house, Judge(load_standard(old)))
        result = impact(before, Standing(house, Judge(load_standard(new)), before))
    if output is Format.JSON:
        typer.echo(msgspec.json.encode(result).decode())
    else:
        typer.echo(result.sentence)
        for part in result.parts:
            name = f"{part.setting}, {part.app}" if part.app else part.setting
            typer.echo(f"  {part.how}: {name} on {', '.join(part.seats)}")
    raise typer.Exit(int(bool(result.parts)))


def _line(house: Path, doubt: Doubt) -> str:
    place = f"{house}:{doubt.line}" if doubt.line else str(house)
    seats = f" ({', '.join(doubt.seats)})" if doubt.seats else ""
    return f"{place}: {doubt.level}: {doubt.code}: {doubt.message}{seats}"
