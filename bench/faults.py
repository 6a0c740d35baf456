"""The fault campaign: real processes, each fault at each step of a rollout, on each kind of change, forth and back.

Every seat of a round stands at one step of its order when the fault comes. After each round every seat must have
ended, hold either what it held before or what it was to hold, and have been written at most once for each order.
"""

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
from django.db import close_old_connections, connection
from django.db.utils import Error as DatabaseError

from normant_agent.files import read, write_atomically
from normant_standin.host import HELD, WRITTEN, StandInHost
from normant_standin.machine import Machine
from normant_standin.postgres import Postgres, free_port

from .house import set_up
from .measure import Figure
from .serving import REPOSITORY

if TYPE_CHECKING:
    from normant.findings.models import Finding
    from normant.rollouts.models import Leg, Rollout

FOLDER = REPOSITORY / ".run" / "bench" / "faults"  # what the processes said stays there until the next time
SCENARIO = REPOSITORY / "demo" / "brinehouse"
STEPS = ("waiting", "ordered", "checking", "saving", "applying", "reading_back", "receipt", "survey")
PATIENCE = 150  # seconds; what died with a worker is taken up by another after up to ninety
BY_HAND = "by hand: the value"  # the one fault after which a seat rightly is not as the plan wanted it


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
        found: Sequence[str] = ["the database"]
        while found:
            if time.monotonic() > deadline:
                raise AssertionError(f"not within {seconds:.0f} s: {what}; in its way: {', '.join(found)}")
            time.sleep(0.1)
            try:
                found = left()
            except (DatabaseError, psycopg.Error):
                connection.close()

    def _answers(self) -> list[str]:
        try:
            httpx.get(f"{self.address}/api/v1/session", trust_env=False).raise_for_status()
        except httpx.HTTPError as fault:
            return [str(fault)]
        return []


@dataclass(frozen=True, slots=True)
class Fault:
    """What goes wrong, and what ends it."""

    begin: Callable[[Stage], None]
    end: Callable[[Stage], None]
    lasts: float = 0.5
    files_only: bool = False


def _all(**what: Any) -> Callable[[Stage], None]:
    return lambda stage: [case.set(**what) for case in stage.cases] and None


def _by_hand(which: str) -> Callable[[Stage], None]:
    def change(stage: Stage) -> None:
        for case in stage.cases:
            case.change(getattr(case.kind, which))
            case.by_hand = which

    return change


def _clock_stops(stage: Stage) -> None:
    for case in stage.cases:
        case.set(clock_stands_at=case.host.now())


def _everything_dies(stage: Stage) -> None:
    for process in (stage.server, stage.worker, stage.seats):
        process.kill()
    stage.restart_database()


def _everything_starts(stage: Stage) -> None:
    stage.seats.start()
    stage.worker.start()
    stage.start_server()


def _nothing(stage: Stage) -> None:
    return


FAULTS = {
    "agent killed": Fault(lambda s: s.seats.kill(), lambda s: s.seats.start()),
    "worker killed": Fault(lambda s: s.worker.kill(), lambda s: s.worker.start()),
    "web process killed": Fault(lambda s: s.server.kill(), Stage.start_server),
    "PostgreSQL killed": Fault(Stage.restart_database, _nothing),
    "all of them killed": Fault(_everything_dies, _everything_starts),
    "disk full": Fault(_all(disk_full=True), _all(disk_full=False), lasts=3),
    "network cut": Fault(_all(online=False), _all(online=True), lasts=3),
    "by hand: another value": Fault(_by_hand("other"), _nothing, files_only=True),
    BY_HAND: Fault(_by_hand("value"), _nothing),
    "clock stopped": Fault(_clock_stops, _all(clock_stands_at=None), lasts=3),
    "handed in twice": Fault(_all(hands_in_twice=True), _all(hands_in_twice=False)),
}


def faults(seats: int) -> list[Figure]:
    """At least 100 distinct cases, all of them good; a table of them."""
    with _stage(FOLDER) as stage:
        begun = time.monotonic()
        for name, fault in FAULTS.items():
            for way in ("correct", "put back"):
                _round(stage, name, fault, back=way == "put back")
        _print(stage)
    counted = sum(stage.rows.values(), Counter[tuple[str, bool]]())
    cases, good = counted.total(), sum(n for (_, passed), n in counted.items() if passed)
    against = f"of {cases} cases good, in {time.monotonic() - begun:.0f} s"
    return [Figure("faults", cases, "", against, good / cases, "100 distinct cases, all good", good == cases >= 100)]


def _round(stage: Stage, name: str, fault: Fault, *, back: bool) -> None:
    """One fault, with every seat at its step; `back`: while what was rolled out is put back."""
    print(f"{name}{', putting back' if back else ''} ...", file=sys.stderr, flush=True)
    for case in stage.cases:
        case.reset()
        case.by_hand = ""
        (case.folder / WRITTEN).unlink(missing_ok=True)
    stage.until("every seat is off norm again", lambda: _other_than_at_first(stage.cases))
    rollouts = list[int]()
    if back:
        done = _start(stage, stage.cases)
        stage.until("all are settled", lambda: _under_way([done]))
    for case in stage.cases:
        case.set(holds_at=case.step)
    early = [case for case in stage.cases if case.step != "waiting"]
    rollouts.append(_back(done, early) if back else _start(stage, early))
    stage.until("every seat is at its step", lambda: _elsewhere(rollouts[0], early), seconds=40)
    stage.worker.kill(signal.SIGSTOP)
    late = [case for case in stage.cases if case.step == "waiting"]
    rollouts.append(_back(done, late) if back else _start(stage, late))
    fault.begin(stage)
    for case in stage.cases:
        case.set(holds_at="")
    if name not in ("worker killed", "all of them killed"):
        stage.worker.kill(signal.SIGCONT)
    time.sleep(fault.lasts)
    fault.end(stage)
    stage.until("every seat has ended", lambda: _under_way(rollouts))
    if name == "disk full" and not back:
        _again(rollouts)
        stage.until("every seat has ended", lambda: _under_way(rollouts))
    row = f"{name}{', putting back' if back else ''}"
    _judge(stage, row, fault, rollouts, back=back)


def _elsewhere(rollout: int, cases: Sequence[Case]) -> list[str]:
    """Seats that do not stand at their step; a survey is held back before the receipt as well, but that is too soon."""
    from normant.rollouts.models import Order  # noqa: PLC0415 (after setup)

    received = Order.objects.filter(leg__rollout=rollout, received_at__isnull=False)
    told = {leg.seat.name: f"{leg.state}: {leg.message}" for leg in _legs([rollout])}
    here = {*received.values_list("seat__name", flat=True)}
    held = {case.seat: case.folder / HELD for case in cases}
    return [
        f"{case} {told.get(case.seat)}"
        for case in cases
        if not held[case.seat].exists()
        or held[case.seat].read_text("utf-8") != case.step
        or (case.step == "survey" and case.seat not in here)
    ]


def _judge(stage: Stage, row: str, fault: Fault, rollouts: Sequence[int], *, back: bool) -> None:
    legs = {leg.seat.name: leg for leg in _legs(rollouts)}
    found = stage.rows.setdefault(row, Counter())
    for case in stage.cases:
        if fault.files_only and not case.kind.file:
            continue
        why = _wrong(case, legs.get(case.seat), back=back)
        found[case.step, not why] += 1
        if why:
            stage.wrong.append(f"{row}, at {case.step}, {case.kind.name}: {why}")
            print(stage.wrong[-1], file=sys.stderr, flush=True)


def _wrong(case: Case, leg: "Leg | None", *, back: bool) -> str:
    """What is not as it must be on one seat; empty where all is."""
    if leg is None:
        return "the seat was lost"
    change, held = leg.plan["changes"][0], case.held()
    hand = case.by_hand == "value"
    if leg.state not in (("settled", "stopped") if hand else ("settled",)):
        return f"{leg.state}: {leg.message}"
    base = case.original
    if case.by_hand == "other" and case.kind.file:
        base = re.sub(case.kind.other[0].encode(), case.kind.other[1].encode(), base, count=1)
    before, after = (change["after"], change["before"]) if back else (change["before"], change["after"])
    if hand:
        wanted = {re.sub(case.kind.value[0].encode(), case.kind.value[1].encode(), base, count=1), b"power-saver"}
    elif back:
        wanted = {base}
    else:
        wanted = _with(base, before, after)
    if held not in wanted:
        return f"the seat holds {held!r}"
    twice = [order for order, times in Counter(_written(case)).items() if times > 1]
    if twice:
        return f"written twice for {', '.join(twice)}"
    left = [path.name for path in case.path.parent.glob(".*normant*")] if case.kind.file else []
    if left:
        return f"left behind: {', '.join(left)}"
    if "corrow" in case.kind.app and "corrow" not in Machine.load(case.folder).running:
        return "the application was not opened again"
    return ""


def _written(case: Case) -> list[str]:
    log = case.folder / WRITTEN
    return log.read_text("utf-8").split() if log.exists() else []


def _with(base: bytes, before: str, after: str) -> set[bytes]:
    """The bytes with one occurrence of a native text replaced, each of them in turn."""
    old, new = before.encode(), after.encode()
    places = (match.start() for match in re.finditer(re.escape(old), base))
    return {base[:place] + new + base[place + len(old) :] for place in places}


def _findings(cases: Sequence[Case]) -> "dict[str, Finding]":
    """The finding of each seat, by the seat's name."""
    from normant.findings.models import Finding  # noqa: PLC0415 (after setup)

    wanted = {(case.seat, case.kind.setting, case.kind.app) for case in cases}
    opened = Finding.objects.open().filter(seat__name__in=[case.seat for case in cases]).select_related("seat")
    return {f.seat.name: f for f in opened if (f.seat.name, f.setting, f.app) in wanted}


def _other_than_at_first(cases: Sequence[Case]) -> list[str]:
    """Seats of which the server does not know yet that they are again as they were at first."""
    there = _findings(cases)
    for case in cases:
        case.reading = case.reading or (there[case.seat].verdict["reading"] if case.seat in there else None)
    return [str(c) for c in cases if c.seat not in there or there[c.seat].verdict["reading"] != c.reading]


def _start(stage: Stage, cases: Sequence[Case]) -> int:
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.findings.models import Finding  # noqa: PLC0415
    from normant.rollouts.services.plan import digest, plan  # noqa: PLC0415
    from normant.rollouts.services.start import start  # noqa: PLC0415
    from normant_core.schedule import Terms  # noqa: PLC0415

    user, _ = User.objects.get_or_create(username="bench", defaults={"role": "supervisor"})
    found = (
        Finding.objects.filter(pk__in=[found.pk for found in _findings(cases).values()])
        .select_related("seat")
        .order_by("seat__name")
    )
    terms = Terms(canaries=False, halt_after=0)
    made: Rollout = start(user, found, seen=digest(plan(found)), terms=terms)
    return made.pk


def _back(rollout: int, cases: Sequence[Case]) -> int:
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.rollouts.models import Rollout  # noqa: PLC0415
    from normant.rollouts.services.stop import put_back  # noqa: PLC0415

    user = User.objects.get(username="bench")
    return put_back(Rollout.objects.get(pk=rollout), user, [case.seat for case in cases]).pk


def _again(rollouts: Sequence[int]) -> None:
    """Try once more what stopped with its seat untouched, as a supervisor would."""
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.rollouts.models import Rollout  # noqa: PLC0415
    from normant.rollouts.services.stop import retry  # noqa: PLC0415

    for rollout in Rollout.objects.filter(pk__in=rollouts):
        stopped = list(rollout.legs.filter(state="stopped").values_list("seat__name", flat=True))
        if stopped:
            retry(rollout, User.objects.get(username="bench"), stopped)


def _under_way(rollouts: Sequence[int]) -> list[str]:
    return [f"{leg.seat.name} {leg.state}, {leg.step}: {leg.message}" for leg in _legs(rollouts) if not leg.ended_at]


def _legs(rollouts: Sequence[int]) -> "list[Leg]":
    from normant.rollouts.models import Leg  # noqa: PLC0415 (after setup)

    close_old_connections()
    return list(Leg.objects.filter(rollout__in=rollouts).select_related("seat"))


@contextlib.contextmanager
def _stage(folder: Path) -> Iterator[Stage]:
    """The database is that of all measurements; the processes are ours, and end with the campaign."""
    set_up()
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    port = free_port()
    address = f"http://127.0.0.1:{port}"
    web = ["-m", "uvicorn", "normant.config.asgi:application", "--port", str(port), "--no-access-log"]
    stand = ["-m", "normant_standin.cli", "run", address, "--codes", str(folder / "codes.json")]
    stage = Stage(
        postgres=Postgres(REPOSITORY / ".run" / "bench"),
        cases=_cases(folder),
        server=Process([*web, "--log-level", "warning"], folder / "server.log"),
        worker=Process([str(REPOSITORY / "server" / "manage.py"), "work"], folder / "worker.log"),
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
    from normant.findings.services.publish import publish  # noqa: PLC0415 (after setup)
    from normant.seats.services.enrol import offer_enrolment  # noqa: PLC0415
    from normant.seats.services.register import Place, register  # noqa: PLC0415
    from normant.standards.models import Edition  # noqa: PLC0415
    from normant.standards.services.keep_dialect import keep_dialect  # noqa: PLC0415

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


def _print(stage: Stage) -> None:
    """How many of the kinds of change came through, for each fault at each step."""
    print(f"{'':<42}" + "".join(f"{step[:9]:>10}" for step in STEPS))
    for row, found in stage.rows.items():
        cells = ((found[step, True], found[step, True] + found[step, False]) for step in STEPS)
        print(f"{row:<42}" + "".join(f"{f'{good} of {of}':>10}" for good, of in cells))
