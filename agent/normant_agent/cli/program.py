"""The command line. Each command's module is imported when the command is called: `normant version` needs none."""

import sys
from importlib import import_module
from typing import Annotated, Any

import typer
from typer.core import TyperGroup
from typer.main import get_group

from normant_core import VERSION

# Where each command is: the module beside this one, and the typer application in it.
COMMANDS = {
    "survey": "seat:seats",
    "enrol": "seat:seats",
    "agent": "seat:seats",
    "schema": "seat:seats",
    "check": "check:checks",
    "starter": "standard:standards",
    "lint": "standard:standards",
    "impact": "standard:standards",
    "get": "files:files",
    "set": "files:files",
    "read": "dialects:preferences",
    "write": "dialects:preferences",
    "ready": "machine:machine",
    "routes": "machine:machine",
    "place": "machine:machine",
    "inspect": "inspect:exports",
    "forecast": "store:forecasts",
}
# Commands with commands of their own.
GROUPS = {
    "dialect": "dialects:dialects",
    "ledger": "ledger:ledger",
    "trial": "trial:trial",
    "memory": "machine:memory",
    "timeline": "timeline:timeline",
    "store": "store:store",
    "project": "project:project",
}


class Commands(TyperGroup):
    """All commands by name; a command's module is imported when the command is called or listed."""

    def list_commands(self, ctx: Any) -> list[str]:
        """Return the names in the order in which the help shows them."""
        return [*COMMANDS, *GROUPS, *super().list_commands(ctx)]

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        """Return the command of that name, or None where there is none."""
        if place := GROUPS.get(cmd_name):
            group = _load(place)
            group.name = cmd_name
            return group
        if place := COMMANDS.get(cmd_name):
            return _load(place).commands[cmd_name]
        return super().get_command(ctx, cmd_name)


def _load(place: str) -> Any:
    module, _, name = place.partition(":")
    return get_group(getattr(import_module(f".{module}", __package__), name))


app = typer.Typer(
    cls=Commands, no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, help="Normant's commands."
)


def _print_version(asked: bool) -> None:
    if asked:
        version()
        raise typer.Exit


@app.callback()
def _options(
    _: Annotated[
        bool, typer.Option("--version", callback=_print_version, is_eager=True, help="Print the version and exit.")
    ] = False,
) -> None:
    pass


@app.command()
def version() -> None:
    """Print the version."""
    typer.echo(f"normant {VERSION}, Python {sys.version.split()[0]}")


def main() -> None:
    """Entry of the command line."""
    app(prog_name="normant")
