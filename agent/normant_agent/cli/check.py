"""The command line for verdicts: `normant check` judges surveys by a standard, from files, without a server."""

import gc
import json
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from itertools import chain, islice
from pathlib import Path
from typing import Annotated

import typer

from normant_core.base.errors import DocumentError
from normant_core.judging.judge import Judge, Verdict, View
from normant_core.standard.rule import Standard
from normant_core.words.formats import as_junit, as_line, as_text

from .documents import Register, Surveys, load_standard, read_views
from .output import bad_input

checks = typer.Typer()


class CheckFormat(StrEnum):
    """How verdicts are printed."""

    TEXT = "text"
    JSON = "json"
    JUNIT = "junit"


@dataclass(frozen=True, slots=True)
class Checked:
    """A seat and the verdicts on its readings. Seats of a house share the verdicts that are alike."""

    seat: str
    verdicts: list[Verdict]


def check(standard: Standard, views: Iterator[View], *, every: bool) -> Iterator[Checked]:
    """Yield what is off norm or unread on each seat, in the order of the surveys; with `every` what is in norm too."""
    first = [*islice(views, 2)]
    if len(first) == 1:
        yield Checked(first[0].seat.name, Judge(standard).verdicts(first[0], every=every))
        return
    from .check_house import check_house  # noqa: PLC0415 (imports numpy, which one seat does not need)

    for name, verdicts in check_house(standard, chain(first, views), every=every):
        yield Checked(name, verdicts)


@checks.command("check")
def check_command(
    house: Annotated[Path, typer.Argument(metavar="STANDARD", help="The house standard, TOML.")],
    surveys: Surveys,
    register: Register = None,
    output: Annotated[CheckFormat, typer.Option("--format")] = CheckFormat.TEXT,
    every: Annotated[bool, typer.Option("--all", help="Also print settings in norm.")] = False,
) -> None:
    """Judge surveys by a standard. Exit 0: nothing off norm, 1: something is, 2: bad input."""
    gc.disable()  # a house is read, told and forgotten: there is nothing to collect, and looking takes a third
    with bad_input(DocumentError):
        results = list(check(load_standard(house), read_views(surveys, register), every=every or output == "junit"))
    if output is CheckFormat.JUNIT:
        typer.echo(as_junit((seat.seat, seat.verdicts) for seat in results))
    elif output is CheckFormat.JSON:
        each = {id(verdict): verdict for seat in results for verdict in seat.verdicts}  # many seats share one
        lines = {number: as_line(verdict) for number, verdict in each.items()}
        for seat in results:
            head = f'{{"seat": {json.dumps(seat.seat)}, '
            sys.stdout.writelines(f"{head}{lines[id(verdict)]}\n" for verdict in seat.verdicts)
    else:
        for seat in results:
            typer.echo("\n".join(as_text(seat.seat, seat.verdicts)))
    raise typer.Exit(int(any(verdict.status == "off-norm" for seat in results for verdict in seat.verdicts)))
