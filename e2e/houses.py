"""The houses that journeys go through.

One demo is started once in a test run, until every seat was heard; stopped, it is the *image*: a PostgreSQL cluster,
the files of the seats, keys, sign-ins. Each worker of a test run copies the image and starts its own `House` on the
copy, at ports of its own. A house gets its state back from there: the database by a template, the files by a copy.
Journeys that stop, kill or upgrade the demo itself start a `Demo`, the process of `script/demo`, on another copy.
"""

import fcntl
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable, Collection
from functools import cache
from multiprocessing.util import Finalize
from pathlib import Path
from typing import Any

import httpx
import psycopg

from normant_core.tests.waiting import PATIENCE_SECONDS, until
from normant_standin import demo as standin
from normant_standin.postgres import DATABASE, Postgres, free_port

REPOSITORY = Path(__file__).resolve().parents[1]
HEARTBEAT_SECONDS = 300  # what changes at a seat comes at once; and no seat is silent before a journey is over
TEMPLATE = "normant_image"
_READING = ("GET", "HEAD", "OPTIONS")
# Of the whole test run. Workers are forks: they find the folder of whoever imported this first, which deletes it.
ROOT = Path(tempfile.mkdtemp(prefix="normant-journeys-"))
ROOT.chmod(0o755)  # PostgreSQL's own user goes in as well
# The clock of the suite is the house's: nothing of the test run's own database may leak in.
_ENV = {name: value for name, value in os.environ.items() if name not in ("DATABASE_URL", "NORMANT_KEYS")}


# Once every house is closed: those have a higher priority. A worker does not inherit this.
Finalize(None, shutil.rmtree, args=(ROOT,), kwargs={"ignore_errors": True}, exitpriority=0)


def eventually(holds: Callable[[], Any], seconds: float = PATIENCE_SECONDS) -> Any:
    """Return what `holds` gives once that is true, also where the server is away meanwhile."""

    def answered() -> Any:
        try:
            return holds()
        except httpx.HTTPError:
            return None

    return until(answered, seconds)


class Running:
    """A demo that runs in `run`, as a journey speaks to it. `changed` says whether anything was done to it."""

    def __init__(self, run: Path) -> None:
        self.run, self.changed = run, False

    @property
    def known(self) -> dict[str, Any]:
        """demo.json."""
        state: dict[str, Any] = json.loads((self.run / "demo.json").read_text("utf-8"))
        return state

    def signed_in(self, role: str) -> Any:
        """A browser's storage with the session of that role, and the theme that journeys begin with."""
        cookies = json.loads((self.run / "sessions.json").read_text("utf-8"))[role]
        theme = {"name": "normant.theme", "value": "paper"}
        return {"cookies": cookies, "origins": [{"origin": self.known["address"], "localStorage": [theme]}]}

    def api(self) -> httpx.Client:
        """A script with the supervisor's rights."""
        headers = {"Authorization": f"Bearer {self.known['token']}"}
        hooks: dict[str, list[Callable[..., Any]]] = {"request": [self._note], "response": [_raise_with_problem]}
        return httpx.Client(
            base_url=f"{self.known['address']}/api/v1",
            headers=headers,
            trust_env=False,
            timeout=PATIENCE_SECONDS,
            event_hooks=hooks,
        )

    def _note(self, request: httpx.Request) -> None:
        self.changed |= request.method not in _READING

    def answer(self, path: str) -> Any:
        """What the API answers."""
        with self.api() as client:
            return client.get(path).json()

    def post(self, path: str, body: dict[str, Any]) -> Any:
        """What the API answers to that."""
        with self.api() as client:
            answered = client.post(path, json=body).raise_for_status()
            return answered.json() if answered.content else None

    def standin(self, *words: str) -> None:
        """Turn something on a stand-in seat."""
        self.changed = True
        command = [sys.executable, "-m", "normant_standin.cli", *words, "--folder", str(self.run / "seats")]
        subprocess.run(command, check=True, cwd=REPOSITORY)

    def file(self, seat: str, path: str) -> bytes:
        """A seat's preference file."""
        return (self.run / "seats" / seat / "preferences" / path).read_bytes()

    def until_heard(self) -> None:
        """Wait until every seat was heard."""
        eventually(lambda: all(seat["levels"] for seat in self.answer("/seats")["items"]))


class Demo(Running):
    """The process of `script/demo`, in a folder of its own: on a copy of the image unless it is to be `fresh`."""

    module, more = "normant_standin.demo", ()

    def __init__(self, run: Path | None = None, *, fresh: bool = False, bare: bool = True, **env: str) -> None:
        super().__init__(run or Path(tempfile.mkdtemp(prefix="demo-", dir=ROOT)))
        self.run.chmod(0o755)
        self.port, self.bare, self.env = free_port(), bare, env
        self.process: subprocess.Popen[str] | None = None
        if not fresh:
            _copy_image(image_of_demo(), self.run, self.port)

    def start(self) -> None:
        """Wait until the address is printed."""
        command = [sys.executable, "-m", self.module, "--run", str(self.run), "--port", str(self.port), *self.more]
        command += ["--bare"] if self.bare else []  # journeys make what they look at
        pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT, "text": True}
        self.process = subprocess.Popen(command, env={**_ENV, **self.env}, **pipes)  # type: ignore[call-overload]
        assert self.process and self.process.stdout
        lines = []
        for line in self.process.stdout:
            lines.append(line)
            if "Ctrl-C" in line:
                return
        raise AssertionError("the demo did not start:\n" + "".join(lines))

    def stop(self) -> None:
        """As Ctrl-C does."""
        if self.process:
            self.process.send_signal(signal.SIGINT)
            self.process.wait(timeout=30)
            assert self.process.stdout
            self.process.stdout.close()
            self.process = None

    def child(self, name: str) -> int:
        """The process of that command line, among the demo's own."""
        assert self.process
        pattern = ["pgrep", "-P", str(self.process.pid), "-f", name]
        return int(subprocess.run(pattern, capture_output=True, text=True, check=True).stdout.split()[0])


class House(Running):
    """Server, worker and seats on a copy of the image, as often as they are asked for anew."""

    def __init__(self, image: Path | None = None) -> None:
        super().__init__(Path(tempfile.mkdtemp(prefix="house-", dir=ROOT)))
        self.run.chmod(0o755)
        self.port, self.changed = free_port(), True
        self._image = image or image_of_demo()
        self._options, self._seats = dict[str, str](), set[str]()
        _copy_image(self._image, self.run, self.port, HEARTBEAT_SECONDS)
        self._demo = standin.Demo(self.run, self.port, base=_ENV)
        self._demo.postgres = Postgres(self.run, lasting=False)
        self._demo.postgres.start()
        self._ask(f"ALTER DATABASE {DATABASE} RENAME TO {TEMPLATE}")
        self._nursery: subprocess.Popen[str] | None = None

    def ready(self, options: dict[str, str], seats: Collection[str] | None) -> None:
        """Bring it to the state of the image, unless that is how it is: with these options of the server's, and the
        agents of these seats at work (None: of all)."""
        if options != self._options:
            self.stop()
            self.close_nursery()
            self.changed, self._options = True, options
        if self.changed:
            self.stop()
            self._ask(f"DROP DATABASE IF EXISTS {DATABASE} WITH (FORCE)")
            self._ask(f"CREATE DATABASE {DATABASE} TEMPLATE {TEMPLATE}")
            _copy_files(self._image, self.run, self.port, HEARTBEAT_SECONDS)
            self._start("server", str(standin.MANAGE), "serve", "--port", str(self.port))
            self._start("worker", str(standin.MANAGE), "work")
            eventually(self._answers)
            self.changed = False
        names = set(_seats(self.run) if seats is None else seats)
        if more := names - self._seats:
            self._seats |= more
            self._start("seats", *self._demo.seats_command(*sorted(more)))

    def stop(self) -> None:
        """Kill the processes: nothing that they leave is looked at again."""
        if self._nursery:
            self._tell({"kill": True})
        self._seats.clear()

    def close(self) -> None:
        """End everything, PostgreSQL with it."""
        self.stop()
        self.close_nursery()
        self._demo.postgres.stop()

    @property
    def database_url(self) -> str:
        """Where its database is."""
        return self._demo.postgres.url

    def close_nursery(self) -> None:
        """End the process that others are forked from, and them."""
        if self._nursery:
            assert self._nursery.stdin
            assert self._nursery.stdout
            self._nursery.stdin.close()
            self._nursery.wait(timeout=PATIENCE_SECONDS)
            self._nursery.stdout.close()
            self._nursery = None

    def _start(self, name: str, *words: str) -> None:
        if self._nursery is None:
            more = {"NORMANT_HEARTBEAT": str(HEARTBEAT_SECONDS), "DATABASE_URL": self._demo.postgres.url}
            with (self.run / "nursery.log").open("ab") as log:
                self._nursery = subprocess.Popen(
                    ["setpriv", "--pdeathsig", "TERM", sys.executable, "-m", "e2e.nursery"],
                    env={**self._demo.env, **more, **self._options},
                    stdin=subprocess.PIPE,
                    stdout=subprocess.PIPE,
                    stderr=log,
                    text=True,
                    cwd=REPOSITORY,
                )
        self._tell({"start": words, "log": str(self.run / f"{name}.log")})

    def _tell(self, asked: dict[str, Any]) -> None:
        assert self._nursery
        assert self._nursery.stdin
        assert self._nursery.stdout
        self._nursery.stdin.write(json.dumps(asked) + "\n")
        self._nursery.stdin.flush()
        if not self._nursery.stdout.readline():
            raise AssertionError("no process can be started:\n" + (self.run / "nursery.log").read_text("utf-8"))

    def _answers(self) -> bool:
        return httpx.get(f"{self._demo.address}/api/v1/session", trust_env=False).is_success

    def _ask(self, statement: str) -> None:
        url = self._demo.postgres.url.rpartition("/")[0] + "/postgres"
        with psycopg.connect(url, autocommit=True) as connection:
            connection.execute(statement)


def _seats(run: Path) -> list[str]:
    return [path.name for path in (run / "seats").iterdir()]


@cache
def house() -> House:
    """The one house of this worker."""
    made = House()
    Finalize(None, made.close, exitpriority=1)  # workers of a test run end without what atexit calls
    return made


def image_of_demo() -> Path:
    """Return the folder of the image; whichever worker comes first makes it, the others wait."""
    image = ROOT / "image"
    with (ROOT / "image.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (ROOT / "image.made").exists():
            shutil.rmtree(image, ignore_errors=True)
            image.mkdir()
            first = Demo(image, fresh=True)
            first.start()
            try:
                first.until_heard()
                eventually(lambda: _is_idle(Postgres(image).url))
                (image / "sessions.json").write_text(json.dumps(_sign_in(first.known)), "utf-8")
            finally:
                first.stop()
            _drop_lists(image)
            (ROOT / "image.made").touch()
    return image


def _drop_lists(image: Path) -> None:
    """Drop the clean-ups that began by themselves while the image was made, and let them begin anew in each house: a
    copied file is another file to its seat, so what was listed before the copy is never deleted after it."""
    postgres = Postgres(image, lasting=False)
    postgres.start()
    try:
        with psycopg.connect(postgres.url) as connection:
            connection.execute("DELETE FROM standing_care_turn")
            connection.execute("UPDATE clearings_clearing SET state = 'dropped', ended_at = now()")
    finally:
        postgres.stop()


def _sign_in(known: dict[str, Any]) -> dict[str, Any]:
    """Sign in everybody of the demo. The cookies by role, as Playwright takes them: checking a password takes a second
    of processor time, and a house that is given back still knows the sessions."""
    sessions = dict[str, Any]()
    for role, person in known["sign_ins"].items():
        with httpx.Client(base_url=known["address"], trust_env=False, timeout=PATIENCE_SECONDS) as client:
            client.get("/api/v1/session")  # it sets the cookie against forged requests
            forged = {"X-CSRFToken": client.cookies["csrftoken"]}
            client.post("/api/v1/session", json=person, headers=forged).raise_for_status()
            sessions[role] = [
                {"name": cookie.name, "value": cookie.value, "domain": "127.0.0.1", "path": "/"}
                for cookie in client.cookies.jar
            ]
    return sessions


def _is_idle(url: str) -> bool:
    """Whether the worker has nothing left to do: what was heard is judged, and houses begin with no work."""
    due = "status IN ('todo', 'doing') AND coalesce(scheduled_at, now()) <= now()"
    with psycopg.connect(url) as connection:
        return connection.execute(f"SELECT 1 FROM procrastinate_jobs WHERE {due}").fetchone() is None


def _copy_image(image: Path, run: Path, port: int, heartbeat: int | None = None) -> None:
    """Copy the whole image, its cluster with it, to a folder whose server will be at `port`."""
    _copy(image, run)
    for log in run.glob("*.log"):
        log.unlink()
    _copy_files(image, run, port, heartbeat)


def _copy(source: Path, target: Path) -> None:
    """Copy a folder with its times. Reading a file marks it as used, so the source gets its times back as well; one
    worker copies at a time, or it would take the times of the other's reading for those of the file."""
    target.mkdir(exist_ok=True)
    with (ROOT / "copy.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        times = [(path, path.stat()) for path in source.rglob("*") if path.is_file() and not path.is_symlink()]
        subprocess.run(["cp", "-a", f"{source}/.", str(target)], check=True)
        for path, before in times:
            os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))


def _copy_files(image: Path, run: Path, port: int, heartbeat: int | None = None) -> None:
    """Give seats, keys, packages and letters their state back; agents get that heartbeat, in seconds."""
    for name in ("seats", "keys", "packages", "mail"):
        shutil.rmtree(run / name, ignore_errors=True)
        if (image / name).exists():
            _copy(image / name, run / name)
    for name in ("demo.json", "codes.json", "sessions.json"):
        if (image / name).exists():
            shutil.copy2(image / name, run / name)
    known = json.loads((run / "demo.json").read_text("utf-8"))
    known["address"] = f"http://127.0.0.1:{port}"
    (run / "demo.json").write_text(json.dumps(known), "utf-8")
    for path in (run / "seats").glob("*/agent/identity.json"):
        identity = json.loads(path.read_text("utf-8"))
        identity |= {"server": known["address"]} | ({"heartbeat_seconds": heartbeat} if heartbeat else {})
        path.write_text(json.dumps(identity), "utf-8")


def _raise_with_problem(response: httpx.Response) -> None:
    """Raises HTTPStatusError for a refusal, with what the server says of it."""
    if response.is_error:
        message = f"{response.status_code} for {response.url}: {response.read().decode()}"
        raise httpx.HTTPStatusError(message, request=response.request, response=response)
