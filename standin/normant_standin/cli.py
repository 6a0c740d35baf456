"""Stand-in seats: `run` them, or turn something on one of them as its editor would."""

import datetime as dt
import json
import signal
import threading
import time
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_agent import logs
from normant_agent.errors import HostError
from normant_agent.files import read, write_atomically
from normant_agent.hosts.host import Answer
from normant_core.base.errors import NormantError
from normant_core.base.structs import learn_structs
from normant_core.catalogue.settings import ValueFault, catalogue
from normant_core.dialects.dialect import parse_dialect, spoken
from normant_core.dialects.native import settle
from normant_core.dialects.preferences import write_value
from normant_core.seat.survey import Activity

from . import history, scenario
from .host import StandInHost
from .seat import run as run_seat

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, help=__doc__)
Folder = Annotated[Path, typer.Option(help="Folder of the simulated seats.")]
Demo = Annotated[Path, typer.Option(help="Folder of the scenario.")]
SEATS, DEMO = Path(".run/seats"), Path("demo/brinehouse")


@app.command()
def run(
    server: str,
    codes: Annotated[Path, typer.Option(help="JSON: enrolment code by seat.")],
    only: Annotated[list[str] | None, typer.Option(help="Run these seats alone.")] = None,
    folder: Folder = SEATS,
    demo: Demo = DEMO,
) -> None:
    """Run the seats of a scenario against SERVER until stopped."""
    logs.to_standard_error()
    known, stop = scenario.load(demo), threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda *_: stop.set())
    given: dict[str, str] = json.loads(codes.read_text("utf-8")) if codes.exists() else {}
    threads = []
    for seat in known.seats:
        if not only or seat.name in only:
            scenario.build(known, seat, folder / seat.name, templates=demo / "preferences")
            what = (folder / seat.name, server, given.get(seat.name, ""), stop)
            threads.append(threading.Thread(target=run_seat, args=what, name=seat.name, daemon=True))
    learn_structs()
    for thread in threads:
        thread.start()
    while not stop.wait(0.2):
        pass
    deadline = time.monotonic() + 1  # agents that wait for orders are not waited for
    for thread in threads:
        thread.join(timeout=max(0.0, deadline - time.monotonic()))


@app.command()
def replay(
    server: str,
    codes: Annotated[Path, typer.Option(help="JSON: enrolment code by seat.")],
    folder: Folder = SEATS,
    demo: Demo = DEMO,
) -> None:
    """Hand in what the seats that are not enrolled yet were like for thirty days."""
    known, begun = scenario.load(demo), time.monotonic()
    moments = history.moments(known, history.load(demo), dt.datetime.now(dt.UTC))
    given: dict[str, str] = json.loads(codes.read_text("utf-8"))
    stage = history.Stage(server, given, folder)
    sent = history.replay(known, moments, stage, templates=demo / "preferences")
    if sent:
        typer.echo(f"{sent} surveys of thirty days handed in within {time.monotonic() - begun:.1f} s")


@app.command()
def change(
    seat: str,
    setting: str,
    value: str,
    application: Annotated[str, typer.Option("--app", help="Which application's preference.")] = "",
    folder: Folder = SEATS,
    demo: Demo = DEMO,
) -> None:
    """Set a preference, or power.profile, as somebody at the seat would."""
    host = _host(folder, seat)
    if setting == "power.profile":
        try:
            host.set_system_value(setting, "", value)
        except HostError as fault:
            raise typer.BadParameter(str(fault)) from fault
        return
    dialects = [parse_dialect(path.read_text("utf-8")) for path in sorted((demo / "dialects").glob("*.toml"))]
    for dialect in spoken(dialects, host.see(dialects).facts.applications or ()):
        bound = dialect.bound(setting)
        if bound and application in ("", dialect.app):
            path = host.preference_root / bound[0].path
            try:
                native, _ = settle(bound[1], catalogue()[setting].typed(value), "nearest")
                write_atomically(path, write_value(bound[0], bound[1], read(path), native))
            except (NormantError, HostError, ValueFault) as fault:
                raise typer.BadParameter(str(fault)) from fault
            return
    raise typer.BadParameter(f"no application of {seat} holds {setting}")


@app.command()
def export(
    seat: str,
    name: str,
    seconds: Annotated[float, typer.Option(help="How long its bytes take to come.")] = 1,
    folder: Folder = SEATS,
    demo: Demo = DEMO,
) -> None:
    """The editor exports: a real small file comes into the seat's store of exports."""
    host = _host(folder, seat)
    host.see([parse_dialect(path.read_text("utf-8")) for path in sorted((demo / "dialects").glob("*.toml"))])
    typer.echo(host.export(name, seconds))


@app.command()
def offline(seat: str, folder: Folder = SEATS) -> None:
    """Pull the network cable."""
    with _host(folder, seat).changed() as machine:
        machine.online = False


@app.command()
def online(seat: str, folder: Folder = SEATS) -> None:
    """Plug the network cable in."""
    with _host(folder, seat).changed() as machine:
        machine.online = True


@app.command()
def busy(seat: str, folder: Folder = SEATS) -> None:
    """The editor works, with something unsaved."""
    with _host(folder, seat).changed() as machine:
        machine.activity = Activity(idle_seconds=20, rendering=False, unsaved=True)


@app.command()
def idle(seat: str, folder: Folder = SEATS) -> None:
    """The editor saved and left an hour ago."""
    with _host(folder, seat).changed() as machine:
        machine.activity = Activity(idle_seconds=3600, rendering=False, unsaved=False)


@app.command("open")
def open_app(seat: str, application: str, folder: Folder = SEATS) -> None:
    """Open an application: it reads its preferences, and clamps what it would not accept."""
    _host(folder, seat).reopen(application)


@app.command("close")
def close_app(seat: str, application: str, folder: Folder = SEATS) -> None:
    """Close an application."""
    _host(folder, seat).close(application)


@app.command()
def answers(seat: str, answer: str, folder: Folder = SEATS) -> None:
    """What the editor answers when asked: agreed, later, or nothing ("")."""
    try:
        given = msgspec.convert(answer, Answer)
    except msgspec.ValidationError as fault:
        raise typer.BadParameter(f"{answer!r} is no answer: expected agreed, later or nothing") from fault
    with _host(folder, seat).changed() as machine:
        machine.answers = given


@app.command()
def driver(seat: str, version: str, branch: str, folder: Folder = SEATS) -> None:
    """Install a driver for the GPU, as somebody at the seat would."""
    with _host(folder, seat).changed() as machine:
        machine.install_driver(version, branch)


@app.command("pull-plug")
def pull_plug(seat: str, step: str, folder: Folder = SEATS) -> None:
    """Let the machine lose its power at STEP of the next order, once: saving, applying or reading_back."""
    with _host(folder, seat).changed() as machine:
        machine.loses_power_at = step


def _host(folder: Path, seat: str) -> StandInHost:
    if not (folder / seat / "machine.json").exists():
        known = sorted(path.parent.name for path in folder.glob("*/machine.json"))
        raise typer.BadParameter(f"there is no stand-in {seat!r}: expected one of {', '.join(known) or 'none yet'}")
    return StandInHost(folder / seat)


if __name__ == "__main__":
    app(prog_name="standin")
