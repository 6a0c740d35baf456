"""The command line for the ledger: `normant ledger verify`."""

import hashlib
from pathlib import Path
from typing import Annotated

import typer

from normant_core.chain import GENESIS, fits, read_ledger
from normant_core.errors import DocumentError

from .errors import HostError
from .files import read
from .told import bad_input

ledger = typer.Typer(no_args_is_help=True, add_completion=False, help="The ledger, away from the server.")
BROKEN = 1


@ledger.callback()
def _ledger() -> None:
    """The ledger, away from the server."""


@ledger.command()
def verify(
    file: Annotated[Path, typer.Argument(metavar="LEDGER", help="The whole ledger as it was handed out, NDJSON.")],
    reports: Annotated[list[Path] | None, typer.Option("--report", help="A rollout's report, JSON.")] = None,
) -> None:
    """Whether the chain of a ledger is whole, and whether reports are those that it tells of. Exit 1 where not."""
    with bad_input(HostError):
        lines = read(file).splitlines()
        given = {path: hashlib.sha256(read(path)).hexdigest() for path in reports or ()}
    previous, count, told = GENESIS, 0, dict[str, str]()
    with bad_input(DocumentError):
        for entry in read_ledger(lines, str(file)):
            count += 1
            if not fits(entry, previous):
                typer.echo(
                    f"{file}: entry {count} ({entry.action}, {entry.at}) does not fit the one before it", err=True
                )
                raise typer.Exit(BROKEN)
            previous = entry.digest
            if "report" in entry.detail:
                told[str(entry.detail["report"])] = f"{entry.subject}, written down {entry.at}"
    typer.echo(f"{count} entries, the chain is whole")
    for path, digest in given.items():
        if digest not in told:
            typer.echo(f"{path}: the ledger tells of no such report", err=True)
            raise typer.Exit(BROKEN)
        typer.echo(f"{path}: {told[digest]}")
