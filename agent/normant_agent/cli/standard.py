"""The command line, for a standard under review: `normant lint`, `impact` and `starter`, without a server."""

import json
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError
from normant_core.house.columns import House
from normant_core.house.impact import impact
from normant_core.house.lint import Doubt, lint
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge
from normant_core.standard.parse import starter
from normant_core.words.sarif import as_sarif

from .documents import Register, Surveys, load_standard, read_views
from .output import Format, bad_input

standards = typer.Typer()


class LintFormat(StrEnum):
    """How doubts are printed."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"


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
        doubts = lint(standard, House(read_views(surveys, register)) if surveys else None, house.read_text("utf-8"))
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
    old: Annotated[Path, typer.Argument(help="The current standard, TOML.")],
    new: Annotated[Path, typer.Argument(help="The new standard, TOML.")],
    surveys: Surveys,
    register: Register = None,
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say what findings another standard would open, close and change. Exit 0: none, 1: some, 2: bad input."""
    with bad_input(DocumentError):
        house = House(read_views(surveys, register))
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
