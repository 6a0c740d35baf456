"""How the command line speaks: its formats, and its manner of failing."""

from collections.abc import Iterator
from contextlib import contextmanager
from enum import StrEnum

import typer

BAD_INPUT = 2


class Format(StrEnum):
    """How results are printed."""

    TEXT = "text"
    JSON = "json"


def say(line: str) -> None:
    """Print a line of what a file holds; half a character, which no terminal takes, as JSON writes it."""
    typer.echo(line.encode("utf-8", "backslashreplace").decode("utf-8"))


@contextmanager
def bad_input(*faults: type[Exception], where: str = "") -> Iterator[None]:
    """These faults end the command with their message on standard error, and exit 2."""
    try:
        yield
    except faults as fault:
        typer.echo(f"{where}: {fault}" if where else str(fault), err=True)
        raise typer.Exit(BAD_INPUT) from fault
