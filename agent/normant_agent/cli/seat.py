"""The command line for this machine: `normant survey`, `enrol`, `agent`; `schema` prints what they write."""

import json
import os
import signal
import socket
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import msgspec
import typer

from normant_core.base.chain import fingerprint
from normant_core.base.errors import DocumentError
from normant_core.dialects import dialect
from normant_core.seat import survey
from normant_core.standard import parse as standard

from .. import identity, logs
from ..agent import Agent
from ..door import Door
from ..door import enrol as redeem
from ..errors import AgentError
from ..hosts.here import this_machine
from ..preferences.fence import Fence
from ..preferences.visit import take_survey
from .output import BAD_INPUT, bad_input

seats = typer.Typer()

Preferences = Annotated[Path, typer.Option(help="Folder under which the applications keep their preferences.")]
State = Annotated[Path, typer.Option(help="Folder of the agent's own: identity, journal, kept copies.")]
Measuring = Annotated[bool, typer.Option("--rates/--no-rates", help="Measure how fast the volumes are, for seconds.")]
HOME_PREFERENCES = Path(os.environ.get("XDG_CONFIG_HOME", "~/.config"))
HOME_STATE = Path(os.environ.get("XDG_STATE_HOME", "~/.local/state")) / "normant-agent"


@seats.command("survey")
def survey_command(
    preferences: Preferences = HOME_PREFERENCES,
    dialects: Annotated[Path | None, typer.Option(help="Folder of *.dialect.toml files.")] = None,
    seat: Annotated[str, typer.Option(help="Name of the seat.")] = "",
    measuring: Measuring = False,
    out: Annotated[Path | None, typer.Option(help="Output file; default: standard output.")] = None,
) -> None:
    """Print a survey of this machine."""
    with bad_input(DocumentError):
        paths = sorted(dialects.glob("*.dialect.toml")) if dialects else []
        spoken = [dialect.parse_dialect(path.read_text("utf-8"), str(path)) for path in paths]
    host = this_machine(preferences.expanduser(), measuring=measuring)
    taken = take_survey(host, seat or socket.gethostname(), spoken)
    text = msgspec.json.format(msgspec.json.encode(taken), indent=2).decode() + "\n"
    if out:
        out.write_text(text, "utf-8")
    else:
        typer.echo(text, nl=False)


@seats.command()
def enrol(
    url: str,
    code: str,
    state: State = HOME_STATE,
    ca: Annotated[Path | None, typer.Option(help="Additional trusted certificates, PEM.")] = None,
    key: Annotated[str, typer.Option(help="The fingerprint of the house's key, as the floor shows it.")] = "",
) -> None:
    """Join this machine to the server at URL with a one-time CODE."""
    try:
        given = redeem(url.rstrip("/"), code, ca=str(ca.expanduser().resolve()) if ca else "")
        shown = fingerprint(given.key)
        if key and key.replace(" ", "").lower() != shown.replace(" ", ""):
            raise AgentError(f"the server's key is {shown}, not {key}: somebody may stand between; nothing was kept")
        identity.save(state.expanduser(), given)
    except (AgentError, OSError) as fault:
        typer.echo(f"not enrolled: {fault}", err=True)
        raise typer.Exit(1) from fault
    typer.echo(f"enrolled as {given.seat}; orders count that are signed by the key\n  {shown}")
    typer.echo("compare it with the one that the floor shows beside the code; then run `normant agent`")


@seats.command()
def agent(
    state: State = HOME_STATE,
    preferences: Preferences = HOME_PREFERENCES,
    measuring: Measuring = True,
    allow: Annotated[
        list[str] | None, typer.Option(help="APPLICATION=FOLDER/: only such folders of preferences are touched.")
    ] = None,
) -> None:
    """Survey this machine and carry out its orders, until stopped."""
    folder = state.expanduser()
    try:
        known, fence = identity.load(folder), Fence.of(allow or [])
        door = Door(known)
    except AgentError as fault:
        typer.echo(str(fault), err=True)
        raise typer.Exit(1) from fault
    logs.to_standard_error()
    stop = threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda *_: stop.set())
    typer.echo(f"{known.seat}: surveying for {known.server}; Ctrl-C stops", err=True)
    host = this_machine(preferences.expanduser(), measuring=measuring)
    Agent(host, known, folder, door, fence=fence).run(stop)


@seats.command()
def schema(document: Annotated[str, typer.Argument(help="survey, standard or dialect")]) -> None:
    """Print the JSON Schema of a document."""
    known: dict[str, Callable[[], Any]] = {
        "survey": survey.schema,
        "standard": standard.schema,
        "dialect": dialect.schema,
    }
    if document not in known:
        typer.echo(f"there is no schema of {document!r}: expected one of {', '.join(known)}", err=True)
        raise typer.Exit(BAD_INPUT)
    typer.echo(json.dumps(known[document](), indent=2, sort_keys=True))
