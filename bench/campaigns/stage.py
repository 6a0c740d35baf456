"""Where faults are tried: seats, each at its step, and the real processes around them."""

import contextlib
import itertools
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

import httpx
import psutil
import psycopg
from django.db import connection
from django.db.utils import Error as DatabaseError

from normant_agent.files import read, write_atomically
from normant_standin.host import StandInHost
from normant_standin.machine import Machine
from normant_standin.postgres import Postgres, free_port

from ..house import set_up
from ..measure import REPOSITORY

if TYPE_CHECKING:
    from normant.findings.models import Finding

FOLDER = REPOSITORY / ".run" / "bench" / "faults"  # what the processes said stays there until the next time
SCENARIO = REPOSITORY / "demo" / "brinehouse"
STEPS = ("waiting", "ordered", "checking", "saving", "applying", "reading_back", "receipt", "survey")
PATIENCE = 150  # seconds; what died with a worker is taken up by another after up to ninety


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of change: the reading that is off norm, in which file; how a hand changes it, and another beside it."""

    name: str
    app: str
    setting: str
    file: str = ""
    seat: str = ""
    hardware_class: str = "tall"
    value: tuple[str, str] = ("", "")  # pattern, replacement
    other: tuple[str, str] = ("", "")


KINDS = (
    Kind(
        "XML, open",
        "corrow",
        "memory.held_back",
        "corrow/8/preferences.xml",
        'running = ["corrow"]\ncorrow = { spare = "200" }',
        "tall",
        (r"<spare>\d+", "<spare>333"),
        ("<keep>24", "<keep>25"),
    ),
    Kind(
        "TOML",
        "glaize",
        "memory.held_back",
        "glaize/5/suite.toml",
        'glaize = { leave = "2" }',
        "broad",
        (r"leave_gib = \d+", "leave_gib = 3"),
        ("bits = ", "bits =  "),
    ),
    Kind(
        "INI, CRLF",
        "pockle",
        "safety.autosave_every",
        "pockle/3/pockle.ini",
        'pockle = { every = "1800" }',
        "small",
        (r"EverySec=\d+", "EverySec=1700"),
        ("PeaksDays=45", "PeaksDays=46"),
    ),
    Kind("power", "", "power.profile", seat='power_profile = "balanced"'),
)


@dataclass(slots=True)
class Process:
    """One of ours, killed and started again at will."""

    command: list[str]
    log: Path
    running: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it."""
        with self.log.open("ab") as log:
            command = ["setpriv", "--pdeathsig", "KILL", sys.executable, *self.command]
            env = {**os.environ, "PYTHONFAULTHANDLER": "1"}
            self.running = subprocess.Popen(command, stdout=log, stderr=log, cwd=REPOSITORY, env=env)

    def kill(self, how: int = signal.SIGKILL) -> None:
        """Without a chance to end in order; or stop it, or let it go on."""
        assert self.running
        self.running.send_signal(how)
        if how == signal.SIGKILL:
            self.running.wait(timeout=20)


@dataclass(slots=True)
class Case:
    """One seat, standing at one step when the fault comes."""

    seat: str
    kind: Kind
    step: str
    folder: Path
    original: bytes = b""
    by_hand: str = ""
    reading: Any = None

    def __str__(self) -> str:
        return f"{self.seat} ({self.kind.name}, {self.step})"

    @property
    def host(self) -> StandInHost:
        """Its machine."""
        return StandInHost(self.folder)

    @property
    def path(self) -> Path:
        """Its file."""
        return self.folder / "preferences" / self.kind.file

    def held(self) -> bytes:
        """What the seat holds of what is changed."""
        if self.kind.file:
            return read(self.path)
        return Machine.load(self.folder).power_profile.encode()

    def set(self, **what: Any) -> None:
        """Let the machine behave otherwise."""
        with self.host.changed() as machine:
            for name, value in what.items():
                setattr(machine, name, value)

    def change(self, how: tuple[str, str]) -> None:
        """Somebody changes the file, or the profile, by hand."""
        if self.kind.file:
            text = re.sub(how[0].encode(), how[1].encode(), read(self.path), count=1)
            write_atomically(self.path, text, mark="hand")
        else:
            self.set(power_profile="power-saver")

    def reset(self) -> None:
        """As it was, by hand."""
        calm = {"holds_at": "", "online": True, "disk_full": False, "clock_stands_at": None, "hands_in_twice": False}
        self.set(**calm)
        if self.kind.file:
            write_atomically(self.path, self.original, mark="hand")
        else:
            self.set(power_profile=self.original.decode())


@dataclass(slots=True)
class Stage:
    """Everything that runs, and the seats."""

    postgres: Postgres
    cases: list[Case]
    server: Process
    worker: Process
    seats: Process
    address: str
    rows: dict[str, Counter[tuple[str, bool]]] = field(default_factory=dict)
    wrong: list[str] = field(default_factory=list)

    def start_server(self) -> None:
        """And wait until it answers."""
        self.server.start()
        self.until("the server answers", self._answers)

    def pause_worker(self) -> None:
        """Between two transactions: what it holds in the midst of one, such as the ledger's lock, stops everybody."""
        while True:
            self.worker.kill(signal.SIGSTOP)
            time.sleep(0.2)
            with connection.cursor() as cursor:
                cursor.execute(
                    "SELECT count(*) FROM pg_stat_activity"
                    " WHERE datname = current_database() AND state LIKE 'idle in transaction%'"
                )
                if not cursor.fetchone()[0]:
                    return
            self.worker.kill(signal.SIGCONT)
            time.sleep(0.1)

    def restart_database(self) -> None:
        """As after a loss of power."""
        pid = int((self.postgres.data / "postmaster.pid").read_text("ascii").split()[0])
        os.kill(pid, signal.SIGQUIT)
        while psutil.pid_exists(pid) and psutil.Process(pid).status() != psutil.STATUS_ZOMBIE:
            time.sleep(0.05)
        time.sleep(0.5)
        self.postgres.launch()

    def until(self, what: str, left: Callable[[], Sequence[str]], seconds: float = PATIENCE) -> None:
        """Wait until nothing is left in its way; the database may be away meanwhile."""
        deadline = time.monotonic() + seconds
        unheard: Sequence[str] = ["the database"]
        while unheard:
            if time.monotonic() > deadline:
                raise AssertionError(f"not within {seconds:.0f} s: {what}; in its way: {', '.join(unheard)}")
            time.sleep(0.1)
            try:
                unheard = left()
            except (DatabaseError, psycopg.Error):
                connection.close()

    def _answers(self) -> list[str]:
        try:
            httpx.get(f"{self.address}/api/v1/session", trust_env=False).raise_for_status()
        except httpx.HTTPError as fault:
            return [str(fault)]
        return []


@contextlib.contextmanager
def staged(folder: Path) -> Iterator[Stage]:
    """The database is that of all measurements; the processes are ours, and end with the campaign."""
    set_up()
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    port = free_port()
    address = f"http://127.0.0.1:{port}"
    manage = str(REPOSITORY / "server" / "manage.py")
    stand = ["-m", "normant_standin.cli", "run", address, "--codes", str(folder / "codes.json")]
    stage = Stage(
        postgres=Postgres(REPOSITORY / ".run" / "bench"),
        cases=_cases(folder),
        server=Process([manage, "serve", "--port", str(port)], folder / "server.log"),
        worker=Process([manage, "work"], folder / "worker.log"),
        seats=Process([*stand, "--folder", str(folder / "seats"), "--demo", str(folder)], folder / "seats.log"),
        address=address,
    )
    try:
        stage.start_server()
        stage.worker.start()
        stage.seats.start()
        stage.until("every seat was heard", lambda: _unheard(stage.cases))
        for case in stage.cases:
            case.original = case.held()
        yield stage
    finally:
        for process in (stage.seats, stage.worker, stage.server):
            if process.running and process.running.poll() is None:
                process.kill(signal.SIGCONT)
                process.kill(signal.SIGABRT)  # its log tells where it stood
                process.running.wait(timeout=20)


def _unheard(cases: Sequence[Case]) -> list[str]:
    return [case.seat for case in cases if not (case.folder / "machine.json").exists()]


def _cases(folder: Path) -> list[Case]:
    """A seat for each kind of change at each step, with its machine described and its code offered."""
    from normant.dialects.services.keep_dialect import keep_dialect  # noqa: PLC0415
    from normant.findings.services.publish import publish  # noqa: PLC0415 (after setup)
    from normant.seats.services.enrol import offer_enrolment  # noqa: PLC0415
    from normant.seats.services.register import Place, register  # noqa: PLC0415
    from normant.standards.models import Edition  # noqa: PLC0415

    for path in sorted((SCENARIO / "dialects").glob("*.toml")):
        keep_dialect(path.read_text("utf-8"), "bench")
    last = Edition.objects.order_by("-number").first()
    text = (SCENARIO / "house.standard.toml").read_text("utf-8")
    if last is None or last.text != text:
        publish(text, base=last.number if last else 0, note="", user=None)
    classes, _, _ = (SCENARIO / "seats.toml").read_text("utf-8").partition("[[seat]]")
    machines, codes, cases = [classes], dict[str, str](), list[Case]()
    mark = time.time_ns()
    for number, (kind, step) in enumerate(itertools.product(KINDS, STEPS)):
        seat = register(f"fault-{mark}-{number:02}", Place("finish"), "bench")
        codes[seat.name] = offer_enrolment(seat, "bench")
        machines.append(f'[[seat]]\nname = "{seat.name}"\nclass = "{kind.hardware_class}"\n')
        machines.append(f'applications = ["{kind.app or "corrow"}"]\n{kind.seat}\n')
        cases.append(Case(seat.name, kind, step, folder / "seats" / seat.name))
    (folder / "seats.toml").write_text("".join(machines), "utf-8")
    (folder / "codes.json").write_text(json.dumps(codes), "utf-8")
    shutil.copytree(SCENARIO / "preferences", folder / "preferences")
    return cases


def findings_of(cases: Sequence[Case]) -> "dict[str, Finding]":
    """The finding of each seat, by the seat's name."""
    from normant.findings.models import Finding  # noqa: PLC0415 (after setup)

    wanted = {(case.seat, case.kind.setting, case.kind.app) for case in cases}
    opened = Finding.objects.open().filter(seat__name__in=[case.seat for case in cases]).select_related("seat")
    return {f.seat.name: f for f in opened if (f.seat.name, f.setting, f.app) in wanted}


def other_than_at_first(cases: Sequence[Case]) -> list[str]:
    """Seats of which the server does not know yet that they are again as they were at first."""
    there = findings_of(cases)
    for case in cases:
        case.reading = case.reading or (there[case.seat].verdict["reading"] if case.seat in there else None)
    return [str(c) for c in cases if c.seat not in there or there[c.seat].verdict["reading"] != c.reading]
