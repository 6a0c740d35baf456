"""The demo: PostgreSQL, the server, a worker and the stand-in seats under one supervising process."""

import datetime as dt
import fcntl
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import quote

import httpx
import typer

from .first_day import FirstDay
from .postgres import Postgres, PostgresError

REPOSITORY = Path(__file__).resolve().parents[2]
MANAGE = REPOSITORY / "server" / "manage.py"
SCENARIO = REPOSITORY / "demo" / "brinehouse"
_ANSWER_SECONDS = 60
LOG_BYTES = 4 * 1024 * 1024  # of each process, and as much again of what was before


@dataclass(slots=True)
class Child:
    """A process that is started again when it ends by itself."""

    name: str
    command: list[str]
    log: Path
    process: subprocess.Popen[bytes] | None = None
    starts: list[float] = field(default_factory=list)

    def start(self, env: dict[str, str]) -> None:
        """Start it; it gets SIGTERM when we die."""
        self.starts.append(time.monotonic())
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                ["setpriv", "--pdeathsig", "TERM", *self.command],
                env=env,
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                cwd=REPOSITORY,
                start_new_session=True,  # a terminal's Ctrl-C is ours to hand on, in order
            )

    def rotate(self) -> None:
        """Keep its log in bounds: the last full one beside it. It writes on at the end, wherever that is."""
        if self.log.exists() and self.log.stat().st_size > LOG_BYTES:
            shutil.copyfile(self.log, self.log.with_suffix(".log.1"))
            os.truncate(self.log, 0)

    def ended(self) -> bool:
        """Whether it has to be started again."""
        return self.process is not None and self.process.poll() is not None

    def failing(self) -> bool:
        """Whether it ended five times within twenty seconds."""
        return len(self.starts) >= 5 and time.monotonic() - self.starts[-5] < 20

    def stop(self) -> None:
        """Ask, then insist."""
        if self.process is None or self.process.poll() is not None:
            return
        self.process.terminate()
        try:
            self.process.wait(timeout=5)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


class Demo:
    """Everything in `run`, at a port."""

    def __init__(self, run: Path, port: int, base: Mapping[str, str] = os.environ) -> None:
        self.run, self.port = run.resolve(), port
        self.address = f"http://127.0.0.1:{port}"
        self.postgres = Postgres(self.run)
        self.env = {
            **base,
            "NORMANT_KEYS": str(self.run / "keys"),
            "NORMANT_PACKAGES": str(self.run / "packages"),
            "NORMANT_HEARTBEAT": "5",
            "NORMANT_ADDRESS": self.address,
            "NORMANT_MAIL": f"folder:{quote(str(self.run / 'mail'))}",  # nothing leaves the machine
            "NORMANT_WEBHOOK_HOSTS": "127.0.0.1",
            "DJANGO_SETTINGS_MODULE": "normant.config.settings",
        }
        self.children: list[Child] = []

    def start(self) -> dict[str, Any]:
        """What `demo.json` says, once the server answers."""
        self.postgres.start()
        (self.run / "mail").mkdir(mode=0o700, exist_ok=True)
        self.env["DATABASE_URL"] = self.postgres.url
        self._manage("migrate", "--verbosity", "0")
        scenario = json.loads(self._manage("load_demo", str(SCENARIO)))
        self._keep("codes.json", self._codes(scenario.pop("codes")))
        known = {"address": self.address, **scenario}
        self._keep("demo.json", known)
        self._start_server()
        self._replay()
        self._start_seats()
        return known

    def _start_server(self) -> None:
        self._spawn("server", str(MANAGE), "serve", "--port", str(self.port))
        self._spawn("worker", str(MANAGE), "work")
        self._await_answer()

    def _start_seats(self) -> None:
        self._spawn("seats", *self.seats_command())

    def seats_command(self, *only: str) -> list[str]:
        """The words behind `python` that run the seats: these, or all."""
        words = ["-m", "normant_standin.cli", "run", self.address, "--codes", str(self.run / "codes.json")]
        words += ["--folder", str(self.run / "seats"), "--demo", str(SCENARIO)]
        return words + [word for seat in only for word in ("--only", seat)]

    def begin_first_day(self, token: str) -> None:
        """Beside everything else, since it waits for the seats; without it the demo works as well."""

        def work() -> None:
            try:
                FirstDay(self.address, token, lambda: dt.datetime.now(dt.UTC)).work()
            except httpx.HTTPError as fault:
                typer.echo(f"the demo's first errand and rollouts were not made: {fault}", err=True)

        threading.Thread(target=work, daemon=True, name="first day").start()

    def watch(self) -> None:
        """Until a child fails for good: what ends by itself is started again."""
        while True:
            self.keep_postgres()
            for child in self.children:
                child.rotate()
                if child.ended():
                    if child.failing():
                        raise PostgresError(f"the {child.name} does not stay up; see {child.log}")
                    typer.echo(f"the {child.name} ended; it is started again", err=True)
                    child.start(self.env)
            time.sleep(0.3)

    def keep_postgres(self) -> None:
        """Start it again where it ended."""
        if self.postgres.process and self.postgres.process.poll() is not None:
            typer.echo("PostgreSQL ended; it is started again", err=True)
            self.postgres.launch()

    def stop(self) -> None:
        """Everything, in the reverse order."""
        for child in reversed(self.children):
            child.stop()
        if self.postgres.process:
            self.postgres.stop()

    def _codes(self, fresh: dict[str, str]) -> dict[str, str]:
        """Codes of seats that were offered one before and have not redeemed it stay as they are."""
        path = self.run / "codes.json"
        return {**(json.loads(path.read_text("utf-8")) if path.exists() else {}), **fresh}

    def _spawn(self, name: str, *arguments: str) -> None:
        self._begin(Child(name, [sys.executable, *arguments], self.run / f"{name}.log"))

    def _begin(self, child: Child) -> None:
        child.start(self.env)
        self.children.append(child)

    def _manage(self, *arguments: str) -> str:
        command = [sys.executable, str(MANAGE), *arguments, "--skip-checks"]  # the tests make them
        done = subprocess.run(command, env=self.env, capture_output=True, text=True, check=False, cwd=REPOSITORY)
        if done.returncode:
            raise PostgresError(f"manage.py {arguments[0]} failed:\n{done.stderr.strip()}")
        return done.stdout

    def _replay(self) -> None:
        """The days before, once, through the door that the agents use."""
        codes, seats = str(self.run / "codes.json"), str(self.run / "seats")
        command = [sys.executable, "-m", "normant_standin.cli", "replay", self.address, "--codes", codes]
        command += ["--folder", seats, "--demo", str(SCENARIO)]
        done = subprocess.run(command, env=self.env, capture_output=True, text=True, check=False, cwd=REPOSITORY)
        if done.returncode:
            raise PostgresError(f"the history could not be replayed:\n{done.stderr.strip()}")
        if done.stdout:
            typer.echo(done.stdout.strip())

    def _keep(self, name: str, value: object) -> None:
        path = self.run / name
        path.touch(mode=0o600)
        path.write_text(json.dumps(value, indent=2) + "\n", "utf-8")

    def _await_answer(self) -> None:
        deadline = time.monotonic() + _ANSWER_SECONDS
        while True:
            try:
                if httpx.get(f"{self.address}/api/v1/session", trust_env=False).is_success:
                    return
            except httpx.HTTPError:
                pass
            if time.monotonic() > deadline or self.children[0].ended():
                raise PostgresError(f"the server does not answer; see {self.run / 'server.log'}")
            time.sleep(0.1)


def demo(
    port: Annotated[int, typer.Option(help="Port on loopback.", min=1, max=65535)] = 8400,
    fresh: Annotated[bool, typer.Option("--fresh", help="Start over: delete the demo's data first.")] = False,
    run: Annotated[Path, typer.Option(help="Folder for data, logs and keys.")] = REPOSITORY / ".run",
    bare: Annotated[bool, typer.Option("--bare", help="Without an errand and rollouts to begin with.")] = False,
) -> None:
    """Start Normant with the demo facility Brinehouse; Ctrl-C stops everything, the data stays."""
    keep_up(lambda: Demo(run, port), fresh=fresh, bare=bare)


def keep_up(make: Callable[[], Demo], *, fresh: bool, bare: bool) -> None:
    """Start what is made, and keep it up until somebody interrupts. Exits with a message where it cannot be."""
    made = make()
    made.run.mkdir(parents=True, exist_ok=True)
    with (made.run / "demo.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            sys.exit(f"a demo is running in {made.run} already: stop it first, or choose another folder with --run")
        _need_free(made.port)
        # A shell starts what it puts behind without the first.
        for name in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(name, _interrupt)
        try:
            if fresh:
                _forget(made)
            known = made.start()
            _print(known)
            if not bare:
                made.begin_first_day(known["token"])
            made.watch()
        except KeyboardInterrupt:
            typer.echo("\nstopping")
        except PostgresError as fault:
            sys.exit(f"script/demo: {fault}")
        finally:
            signal.signal(signal.SIGINT, signal.SIG_IGN)  # stopping is not interrupted by a second Ctrl-C
            made.stop()


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt


def _need_free(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            sys.exit(f"script/demo: port {port} is taken: stop what listens there, or choose another with --port")


def _forget(demo_: Demo) -> None:
    demo_.postgres.remove()
    for name in ("seats", "keys", "mail"):
        shutil.rmtree(demo_.run / name, ignore_errors=True)
    for name in ("codes.json", "demo.json"):
        (demo_.run / name).unlink(missing_ok=True)


def _print(known: dict[str, Any]) -> None:
    typer.echo(f"\nNormant is at {known['address']}\n")
    for role, sign_in in known["sign_ins"].items():
        typer.echo(f"  {role + ':':<15} {sign_in['name']} / {sign_in['password']}")
    typer.echo("\nCtrl-C stops everything; the data stays.")


def main() -> None:
    """Entry of script/demo."""
    app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
    app.command()(demo)
    app(prog_name="script/demo")


if __name__ == "__main__":
    main()
