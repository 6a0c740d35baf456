"""The command line for the ledger: `normant ledger verify`."""

import base64
import hashlib
from pathlib import Path
from typing import Annotated

import typer

from normant_core.base.chain import Head, fingerprint, read_head, read_ledger, verified
from normant_core.base.errors import DocumentError

from ..errors import HostError
from ..files import read
from ..orders.seal import is_signature_of
from .output import bad_input

ledger = typer.Typer(no_args_is_help=True, add_completion=False, help="The ledger, away from the server.")
BROKEN = 1


@ledger.callback()
def _ledger() -> None:
    """The ledger, away from the server."""


@ledger.command()
def verify(
    file: Annotated[Path, typer.Argument(metavar="LEDGER", help="The whole ledger as it was handed out, NDJSON.")],
    reports: Annotated[list[Path] | None, typer.Option("--report", help="A rollout's report, JSON.")] = None,
    head: Annotated[Path | None, typer.Option(help="A signed head that was noted earlier, JSON.")] = None,
    key: Annotated[str, typer.Option(help="Expected fingerprint of the ledger's key.")] = "",
) -> None:
    """Whether the chain of a ledger is whole, and whether reports are those that it tells of. Exit 1 where not."""
    with bad_input(HostError):
        lines = read(file).splitlines()
        given = {path: hashlib.sha256(read(path)).hexdigest() for path in reports or ()}
    noted = _noted(head, key) if head else None
    with bad_input(DocumentError):
        entries = list(read_ledger(lines, str(file)))
    faults = [
        f"{file}: entry {number}{f' ({entry.action}, {entry.at})' if entry else ''}: {fault}"
        for number, entry, fault in verified(entries, noted)
    ]
    for fault in faults:
        typer.echo(fault, err=True)
    if faults:
        raise typer.Exit(BROKEN)
    digests = {
        str(entry.detail["report"]): f"{entry.subject}, written down {entry.at}"
        for entry in entries
        if "report" in entry.detail
    }
    count = len(entries)
    typer.echo(f"{count} entries, the chain is whole")
    for path, digest in given.items():
        if digest not in digests:
            typer.echo(f"{path}: the ledger tells of no such report", err=True)
            raise typer.Exit(BROKEN)
        typer.echo(f"{path}: {digests[digest]}")


def _noted(path: Path, key: str) -> Head:
    """A head that was noted, if the ledger's key signed it."""
    with bad_input(HostError, DocumentError):
        head = read_head(read(path), str(path))
    public = base64.b64decode(head.key)
    if key and fingerprint(public).replace(" ", "") != key.replace(" ", "").lower():
        typer.echo(f"{path}: signed by the key {fingerprint(public)}, not by {key}", err=True)
        raise typer.Exit(BROKEN)
    if not is_signature_of(public, base64.b64decode(head.signature), head.signed_bytes):
        typer.echo(f"{path}: the signature is not that of the key which it names", err=True)
        raise typer.Exit(BROKEN)
    return head
