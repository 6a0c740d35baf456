"""The command line for trials: `normant trial verdict`, `screen` and `design`, from tables of runs."""

import csv
import json
from collections.abc import Sequence
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Any

import msgspec
import typer

from normant_core.base.errors import DocumentError, Fault
from normant_core.measure.design import DesignError, blocks, factorial, restarts
from normant_core.measure.runs import read_runs
from normant_core.measure.screening import read_screening, screen
from normant_core.measure.verdict import conditions_of
from normant_core.measure.verdict import verdict as judge_runs

from ..errors import HostError
from ..files import read
from .output import BAD_INPUT, Format, bad_input

trial = typer.Typer(no_args_is_help=True, add_completion=False, help="Evaluate runs, and plan their order.")
LIMIT_BYTES = 32 << 20


class JobName(StrEnum):
    """What one run measured."""

    PLAY = "play"
    RENDER = "render"
    DECODE = "decode"
    DISK = "disk"


Runs = Annotated[Path, typer.Argument(metavar="RUNS", help="The runs, CSV.")]
TheJob = Annotated[JobName, typer.Option("--job", help="What was measured: of renders seconds, fewer are better.")]
Output = Annotated[Format, typer.Option("--format")]


@trial.callback()
def _trial() -> None:
    """Evaluate runs, and plan their order."""


@trial.command()
def verdict(
    runs: Runs,
    job: TheJob,
    against: Annotated[str, typer.Option(help="Compare every condition with this one alone.")] = "",
    output: Output = Format.TEXT,
) -> None:
    """Compare the conditions of a table with the columns seat, block, condition and value. Exit 2: bad input."""
    with bad_input(DocumentError, HostError):
        made = read_runs(table(runs), str(runs))
        if against and against not in (names := conditions_of(made)):
            fault = Fault(f"no run has the condition {against!r}", expected=f"one of {', '.join(names)}")
            raise DocumentError(str(runs), [fault])
    shown = judge_runs(job.value, made, against)
    typer.echo(_json(shown) if output is Format.JSON else shown.sentence)


@trial.command(name="screen")
def screen_command(runs: Runs, job: TheJob, output: Output = Format.TEXT) -> None:
    """Say which factors of a table matter: a column of -1 and 1 for each, `value`, and `block` where there are any."""
    with bad_input(DocumentError, HostError):
        made = read_screening(table(runs), str(runs))
    shown = screen(job.value, made)
    typer.echo(_json(shown) if output is Format.JSON else shown.sentence)


@trial.command()
def design(
    factors: Annotated[str, typer.Option(help="Names of 2 to 15 factors, comma-separated.")] = "",
    conditions: Annotated[str, typer.Option(help="Names of 2 to 8 conditions, comma-separated.")] = "",
    fold: Annotated[bool, typer.Option("--fold", help="Add the same number of runs with all levels reversed.")] = False,
    count: Annotated[int, typer.Option("--blocks", help="How many blocks of conditions.")] = 6,
    restarting: Annotated[bool, typer.Option("--restarting", help="Setting a condition restarts something.")] = False,
    seed: Annotated[int, typer.Option(help="Random seed of the order.")] = 0,
    output: Output = Format.TEXT,
) -> None:
    """Print the runs of a trial in the order in which to make them."""
    if bool(factors) == bool(conditions):
        typer.echo("either --factors or --conditions, with names parted by commas", err=True)
        raise typer.Exit(BAD_INPUT)
    with bad_input(DesignError):
        if factors:
            rows = [
                {"run": number, "block": run.block, "levels": run.levels}
                for number, run in enumerate(factorial(_names(factors), fold=fold, seed=seed), 1)
            ]
            _print_factorial(_names(factors), rows, output)
        else:
            orders = blocks(_names(conditions), count, seed=seed, restarting=restarting)
            _print_blocks(orders, output)


def _print_factorial(factors: Sequence[str], rows: Sequence[dict[str, Any]], output: Format) -> None:
    if output is Format.JSON:
        typer.echo(json.dumps({"runs": rows}))
        return
    typer.echo(",".join(["block", *factors, "value"]))
    for row in rows:
        typer.echo(",".join([row["block"], *(str(row["levels"][factor]) for factor in factors), ""]))


def _print_blocks(orders: Sequence[Sequence[str]], output: Format) -> None:
    runs = [(str(number), condition) for number, order in enumerate(orders, 1) for condition in order]
    if output is Format.JSON:
        rows = [{"run": n, "block": block, "condition": name} for n, (block, name) in enumerate(runs, 1)]
        typer.echo(json.dumps({"runs": rows, "restarts": restarts(orders)}))
        return
    typer.echo("block,condition,value")
    for block, condition in runs:
        typer.echo(f"{block},{condition},")


def table(path: Path) -> list[list[str]]:
    """The rows of a CSV file, empty ones too, so that they count as lines. Raises HostError and DocumentError."""
    try:
        return list(csv.reader(text_of(path).splitlines()))
    except csv.Error as fault:
        raise DocumentError(str(path), [Fault(f"this is no table: {fault}", expected="CSV")]) from fault


def text_of(path: Path) -> str:
    """A table as it is written. Raises HostError and DocumentError."""
    content = read(path)
    if len(content) > LIMIT_BYTES:
        message = f"the table has {len(content):,} bytes"
        raise DocumentError(str(path), [Fault(message, expected=f"at most {LIMIT_BYTES:,}")])
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        raise DocumentError(str(path), [Fault("the table is not text", expected="UTF-8")]) from fault


def _names(text: str) -> list[str]:
    return [name.strip() for name in text.split(",")]


def _json(shown: Any) -> str:
    """What has no number (infinity, nothing) is null."""
    return msgspec.json.encode(shown).decode()
