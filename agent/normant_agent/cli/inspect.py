"""The command line for finished exports: `normant inspect`."""

from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError
from normant_core.base.wording import counted
from normant_core.measure.machine.inspection import read_specification
from normant_core.orders.exports import Flaw

from ..errors import HostError
from ..files import read
from ..media import Inspection, inspect
from .output import Format, bad_input

exports = typer.Typer()


@exports.command(name="inspect")
def inspect_command(
    file: Annotated[Path, typer.Argument(help="A finished export.")],
    spec: Annotated[Path | None, typer.Option(help="Delivery specification, TOML.")] = None,
    seconds: Annotated[float, typer.Option(min=0.1, help="How long it may take.")] = 3600,
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Decode every frame of an export. Exit 0: whole, 1: something is wrong with it, 2: it cannot be read."""
    with bad_input(DocumentError, HostError, UnicodeDecodeError):
        wanted = read_specification(read(spec).decode("utf-8"), str(spec)) if spec else None
        made = inspect(file, wanted, seconds=seconds)
    if output is Format.JSON:
        typer.echo(msgspec.json.encode(made).decode())
    else:
        typer.echo("\n".join([_heading(made), *(f"  {_line(flaw)}" for flaw in made.flaws)]))
    raise typer.Exit(int(bool(made.flaws)))


def _heading(made: Inspection) -> str:
    """`mov, avc1 1920x1080 at 25/1, 8 bits 420, 250 frames: whole`"""
    shown = made.deliverable
    size = f"{shown.width}x{shown.height} at {shown.rate}, {shown.bits} bits {shown.chroma}"
    wrong = f"{counted(len(made.flaws), 'problem')} found" if made.flaws else "whole"
    return f"{shown.container}, {shown.codec} {size}, {counted(made.decoded, 'frame')}: {wrong}"


def _line(flaw: Flaw) -> str:
    return f"{flaw.at}: {flaw.message}" if flaw.at else flaw.message
