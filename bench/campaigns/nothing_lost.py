"""The campaign "nothing lost": real files of stores, something done to some of them, and a fault, at each step.

Every seat of a round has a plan of its own, signed, and stands at one step of its order when something is done to two
of its files and the fault comes. When that has passed, exactly what was listed and still is so has gone, once; the
figures agree with the file system; and what is held comes back to where it lay.
"""

import contextlib
import datetime as dt
import os
import shutil
import sys
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import cycle
from pathlib import Path
from typing import IO, TYPE_CHECKING

import msgspec
from django.db import close_old_connections

from normant_agent.care.holding import HELD
from normant_core.orders.clearing import Cleared
from normant_core.seat.survey import ProjectShare
from normant_core.seat.survey import Store as CoreStore
from normant_standin.host import HELD as STANDS
from normant_standin.machine import GRAIN

from ..measure import Figure
from .faults import FAULTS, Fault
from .stage import FOLDER, Case, Stage, staged

if TYPE_CHECKING:
    from normant.accounts.models import User
    from normant.clearings.models import Clearing, StoreClearing

STEPS = ("ordered", "checking", "applying", "reading_back", "receipt")
BEFORE = ("ordered", "checking", "applying")  # steps at which nothing was taken yet
OLD, LATER = 20, 3  # files that nobody used for long, and files of today
DAYS = 100 * 86_400
STORES = {"glaize": ("frame_cache", "/fast/glaize/frames"), "pockle": ("source_cache", "/fast/pockle/peaks")}
RENDERS, CACHE = ("renders", "/fast/corrow/renders"), ("source_cache", "/fast/corrow/source_cache")
LEFT_OUT = ("by hand: another value", "by hand: the value")  # faults of preference files


@dataclass(slots=True)
class Store:
    """A seat's store in one round: where it lies, what it held, and which of its files may not go."""

    case: Case
    kind: str
    folder: Path
    step: str
    trouble: str
    at_once: bool
    project: str = ""
    clearing: int = 0
    inodes: dict[str, int] = field(default_factory=dict)
    stays: set[str] = field(default_factory=set)
    opened: list[IO[bytes]] = field(default_factory=list)
    withdrawn: bool = False

    def __str__(self) -> str:
        return f"{self.case.seat} ({self.kind}, {self.step}, {self.trouble}{', at once' if self.at_once else ''})"

    @property
    def below(self) -> Path:
        """The folder that its files lie in: of renders, that of their project."""
        return self.folder / "old_show" / self.project if self.project else self.folder / "deep"

    def fill(self) -> None:
        """Files that nobody used for long, and others of today."""
        shutil.rmtree(self.folder, ignore_errors=True)
        self.below.mkdir(parents=True)
        for number in range(OLD + LATER):
            path = self.below / f"{number:02}.mkv"
            path.write_bytes(bytes(100 + number))
            used = time.time() - (DAYS if number < OLD else 0)
            os.utime(path, (used, used))
        self.inodes = {path.name: path.stat().st_ino for path in self.below.iterdir()}
        self.stays = {f"{number:02}.mkv" for number in range(OLD, OLD + LATER)}
        with self.case.host.changed() as machine:
            free = 1 if self.at_once else 10**12
            volumes = (msgspec.structs.replace(v, free=free, capacity=10**13) for v in machine.facts.volumes or ())
            machine.facts = msgspec.structs.replace(machine.facts, volumes=tuple(volumes))
            if self.project:
                share = ProjectShare("old_show", self.project, 1)
                renders = CoreStore("renders", RENDERS[1], "corrow", "v1", size=1, projects=(share,))
                others = (store for store in machine.stores if store.path != renders.path)
                machine.stores = (*others, renders)

    def lie(self) -> dict[str, int]:
        """What lies in its place now, by its name."""
        with contextlib.suppress(FileNotFoundError):
            return {entry.name: entry.stat(follow_symlinks=False).st_ino for entry in os.scandir(self.below)}
        return {}

    def held(self) -> list[os.stat_result]:
        """What is held beside."""
        return [path.stat() for path in (self.folder / HELD).glob("*/*")]


def _used(store: Store, path: Path) -> None:
    os.utime(path)


def _opened(store: Store, path: Path) -> None:
    store.opened.append(path.open("rb"))


def _grown(store: Store, path: Path) -> None:
    times = path.stat()
    with path.open("ab") as file:
        file.write(b"more")
    os.utime(path, ns=(times.st_atime_ns, times.st_mtime_ns))


def _link(store: Store, path: Path) -> None:
    path.unlink()
    path.symlink_to(store.below / f"{OLD:02}.mkv")


def _another(store: Store, path: Path) -> None:
    """Another file with the same name, size and times."""
    times, size = path.stat(), path.stat().st_size
    beside = path.with_suffix(".beside")
    beside.write_bytes(b"x" * size)
    os.utime(beside, ns=(times.st_atime_ns, times.st_mtime_ns))
    beside.replace(path)


def _renamed(store: Store, path: Path) -> None:
    path.rename(path.with_suffix(".renamed"))


def _twice(store: Store, path: Path) -> None:
    path.with_suffix(".again").hardlink_to(path)


def _locked(store: Store, path: Path) -> None:
    path.chmod(0o444)


def _nothing(store: Store, path: Path) -> None:
    store.stays.discard(path.name)


def _folder_link(store: Store, path: Path) -> None:
    """The folder that all of them lie in is moved, and a link stands in its place."""
    elsewhere = store.folder.parent / f"moved-{store.case.seat}"
    shutil.rmtree(elsewhere, ignore_errors=True)
    store.below.rename(elsewhere)
    store.below.symlink_to(elsewhere)
    store.stays |= set(store.inodes)


TROUBLES: dict[str, Callable[[Store, Path], None]] = {
    "nothing else": _nothing,
    "used": _used,
    "opened": _opened,
    "grown": _grown,
    "replaced by a link": _link,
    "replaced by its like": _another,
    "renamed": _renamed,
    "a second name": _twice,
    "locked": _locked,
    "its folder a link": _folder_link,
    "delivery withdrawn": _nothing,
}


TOUCHED, BESIDE = ("04.mkv", "11.mkv"), "notes.txt"


def _held_paths(store: Store) -> list[Path]:
    """Where two of its files are held, by what identifies them."""
    by_inode = {path.stat().st_ino: path for path in (store.folder / HELD).glob("*/*")}
    return [by_inode[store.inodes[name]] for name in TOUCHED]


def _moved(store: Store) -> Path:
    return store.folder.with_name(f"{store.folder.name}-moved")


def _untouched(store: Store) -> None:
    """Nobody does anything."""


def _written_while_held(store: Store) -> None:
    """A program that had it open writes, and its times are set back."""
    for path in _held_paths(store):
        times = path.stat()
        with path.open("r+b") as file:
            file.write(b"work")
        os.utime(path, ns=(times.st_atime_ns, times.st_mtime_ns))


def _opened_while_held(store: Store) -> None:
    store.opened += [path.open("rb") for path in _held_paths(store)]


def _named_while_held(store: Store) -> None:
    for path in _held_paths(store):
        (store.folder / f"kept-{path.name}").hardlink_to(path)


def _swapped(store: Store) -> None:
    for path in _held_paths(store):
        path.unlink()
        path.write_bytes(b"another")


def _put_beside(store: Store) -> None:
    (_held_paths(store)[0].parent / BESIDE).write_text("mine")


def _holding_removed(store: Store) -> None:
    shutil.rmtree(store.folder / HELD)


def _another_folder(store: Store) -> None:
    store.folder.rename(_moved(store))
    shutil.copytree(_moved(store), store.folder)


def _link_to_it(store: Store) -> None:
    store.folder.rename(_moved(store))
    store.folder.symlink_to(_moved(store))


WHILE_HELD: dict[str, Callable[[Store], None]] = {
    "untouched": _untouched,
    "written while held": _written_while_held,
    "opened while held": _opened_while_held,
    "named while held": _named_while_held,
    "swapped": _swapped,
    "put beside": _put_beside,
    "holding folder removed": _holding_removed,
    "another folder": _another_folder,
    "a link in its place": _link_to_it,
}
BACK = (OLD - len(TOUCHED), len(TOUCHED), 0)  # deleted, put back, lost
WANTED = {
    **dict.fromkeys(("written while held", "opened while held", "named while held", "swapped"), BACK),
    "holding folder removed": (0, 0, OLD),
}
UNTOLD = ("another folder", "a link in its place")  # nothing is touched, so there is nothing to tell
DAYS_LATER = 2


def nothing_lost(seats: int) -> list[Figure]:
    """At least 330 cases, all of them good; a table of them."""
    with staged(FOLDER) as stage:
        begun = time.monotonic()
        _forget_plans()
        stage.until("every seat has told its stores", lambda: _silent(stage.cases))
        steps, troubles = cycle(STEPS), cycle(TROUBLES)
        for number, (name, fault) in enumerate(FAULTS.items()):
            if name not in LEFT_OUT:
                stores = [_store(case, next(steps), next(troubles), number) for case in stage.cases]
                _round(stage, name, fault, stores)
        held_troubles = cycle(WHILE_HELD)
        for number in range(DAYS_LATER):
            _day_later(stage, [_store(case, "receipt", next(held_troubles), 2 * number) for case in stage.cases])
        _print(stage)
    counted = sum(stage.rows.values(), Counter[tuple[str, bool]]())
    cases, good = counted.total(), sum(n for (_, passed), n in counted.items() if passed)
    against = f"of {cases} cases good, in {time.monotonic() - begun:.0f} s"
    return [Figure("nothing_lost", cases, "", against, good / cases, "330 cases, all good", good == cases >= 330)]


def _forget_plans() -> None:
    """Those that a campaign which was broken off left open: a house has so many of them at most."""
    from normant.clearings.models import Clearing  # noqa: PLC0415 (after setup)
    from normant.standing_care.models import Turn  # noqa: PLC0415

    Turn.objects.all().delete()
    Clearing.objects.all().delete()


def _silent(cases: Sequence[Case]) -> list[str]:
    """A seat's very first survey may come before it has learnt its dialects, and names no store."""
    from normant.seats.models import Reading  # noqa: PLC0415 (after setup)

    stores = Reading.objects.filter(setting__startswith="store.", until=None)
    heard = set(stores.values_list("seat__name", flat=True))
    return [case.seat for case in cases if case.seat not in heard]


def _untold(stores: Sequence[Store]) -> list[str]:
    """Seats whose newest survey does not tell the project yet: an order names the deliveries of what a seat has."""
    from normant.seats.models import Seat  # noqa: PLC0415 (after setup)
    from normant.seats.views_of import latest_surveys  # noqa: PLC0415

    close_old_connections()
    seats = dict(Seat.objects.values_list("name", "pk"))
    surveys, untold = latest_surveys(seats.values()), list[str]()
    for store in (store for store in stores if store.project):
        survey = surveys.get(seats[store.case.seat])
        reported = {share.project for known in (survey.stores if survey else ()) for share in known.projects}
        if store.project not in reported:
            untold.append(store.case.seat)
    return untold


def _store(case: Case, step: str, trouble: str, number: int) -> Store:
    app = case.kind.app or "corrow"
    kind, folder = STORES.get(app) or (RENDERS if case.kind.app else CACHE)
    project = f"{case.seat}-{number}" if kind == "renders" else ""
    if trouble == "delivery withdrawn" and not project:
        trouble = "used"
    return Store(case, kind, case.folder / "disks" / folder.lstrip("/"), step, trouble, number % 2 == 1, project)


def _round(stage: Stage, name: str, fault: Fault, stores: Sequence[Store]) -> None:
    print(f"clearing, {name} ...", file=sys.stderr, flush=True)
    _plan(stage, stores)
    for store in stores:
        store.case.set(holds_at=store.step)
        _sign(store)
    stage.until("every seat is at its step", lambda: _elsewhere(stores))
    for store in stores:
        _trouble(store)
    fault.begin(stage)
    for store in stores:
        store.case.set(holds_at="")
    time.sleep(fault.lasts)
    fault.end(stage)
    stage.until("every plan is over", lambda: _in_states(stores, "running"))
    _take_back_withdrawn(stage, [store for store in stores if store.withdrawn and store.held()])
    for store in stores:
        why = _wrong(store) or _wrong_when_put_back(stage, store)
        _count(stage, name, store, why)


def _plan(stage: Stage, stores: Sequence[Store]) -> None:
    """Fill every store, and have its seat tell what of it would go."""
    for store in stores:
        store.case.reset()
        store.fill()
    stage.until("every seat tells its project", lambda: _untold(stores))
    for store in stores:
        store.clearing = _begin(store)
    stage.until("every seat has looked", lambda: _in_states(stores, "looking"))


def _count(stage: Stage, name: str, store: Store, why: str) -> None:
    """Count a case of that fault as good, or as wrong with the reason."""
    stage.rows.setdefault(name, Counter())[store.step, not why] += 1
    if why:
        stage.wrong.append(f"clearing, {name}, {store}: {why}")
        print(stage.wrong[-1], file=sys.stderr, flush=True)
    for file in store.opened:
        file.close()


def _take_back_withdrawn(stage: Stage, stores: Sequence[Store]) -> None:
    """What a delivery released that was withdrawn meanwhile goes back by itself."""
    from normant.clearings.services.put_back_lost import put_back_lost  # noqa: PLC0415 (after setup)

    put_back_lost()
    stage.until("what was released is put back", lambda: [str(store) for store in stores if not _row(store).put_back])


def _day_later(stage: Stage, stores: Sequence[Store]) -> None:
    """Something is done to what is held, and its day passes: exactly what is as it was moved is deleted."""
    print("clearing, a day later ...", file=sys.stderr, flush=True)
    _plan(stage, stores)
    for store in stores:
        _sign(store)
    stage.until("every plan is over", lambda: _in_states(stores, "running"))
    for store in stores:
        WHILE_HELD[store.trouble](store)
    later = dt.datetime.now(dt.UTC) + dt.timedelta(hours=25)
    for store in stores:
        store.case.set(clock_stands_at=later)
    telling = [store for store in stores if store.trouble not in UNTOLD]
    stage.until("every seat has told of it", lambda: [str(store) for store in telling if not _row(store).deleted])
    for store in stores:
        why = _wrong_a_day_later(store)
        _count(stage, "a day later", store, why)
        shutil.rmtree(_moved(store), ignore_errors=True)
        if store.folder.is_symlink():
            store.folder.unlink()


def _wrong_a_day_later(store: Store) -> str:
    """Whether the figures and the disk say what this trouble should lead to; empty where they do."""
    deleted, returned, lost = WANTED.get(store.trouble, (OLD, 0, 0))
    reported = _row(store).deleted or {}
    if store.trouble in UNTOLD:
        left = len(list((_moved(store) / HELD).glob("*/*")))
        return "" if left == OLD and not reported else f"{left} of {OLD} are left, and it tells {reported}"
    figures = tuple(reported.get(name, 0) for name in ("items", "returned", "lost"))
    if figures != (deleted, returned, lost):
        return f"{figures} are told, expected {(deleted, returned, lost)}"
    there = {name for name in store.lie() if name in store.inodes}
    expected = {f"{number:02}.mkv" for number in range(OLD, OLD + LATER)} | (set(TOUCHED) if returned else set())
    if there != expected:
        return f"{sorted(there)} are there, expected {sorted(expected)}"
    beside = [path for path in (store.folder / HELD).glob("*/*") if path.name == BESIDE]
    return "" if bool(beside) == (store.trouble == "put beside") else "what somebody put there went as well"


def _trouble(store: Store) -> None:
    """Something is done to two of its files, where they are still there."""
    if store.trouble == "delivery withdrawn":
        _withdraw(store)
    elif store.step in BEFORE:
        for name in ("04.mkv", "11.mkv") if store.trouble != "its folder a link" else ("04.mkv",):
            store.stays.add(name)
            TROUBLES[store.trouble](store, store.below / name)


def _begin(store: Store) -> int:
    from django.utils import timezone  # noqa: PLC0415 (after setup)

    from normant.clearings.services.begin_clearing import Wanted, begin_clearing  # noqa: PLC0415
    from normant.deliveries.models import Delivery, EndedProduction  # noqa: PLC0415

    user, now = _user(), timezone.now()
    if store.project:
        long_ago = now - dt.timedelta(days=300)
        EndedProduction.objects.get_or_create(
            key="oldshow", defaults={"name": "Old Show", "ended_at": long_ago, "ended_by": user}
        )
        Delivery.objects.create(
            production="Old Show", project=store.project, project_app="corrow", file="x.mov",
            digest=f"{time.time_ns():064x}", size=1, finished_at=now,
            proposed_by="bench", signed_by=user, signed_at=now,
        )  # fmt: skip
    kind: object = store.kind
    return begin_clearing(user, Wanted([store.case.seat], [kind])).pk  # type: ignore[list-item]


def _user() -> "User":
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)

    user, _ = User.objects.get_or_create(username="bench", defaults={"role": "supervisor"})
    return user


def _sign(store: Store) -> None:
    from normant.clearings.services.sign_clearing import seen_of_clearing, sign_clearing  # noqa: PLC0415

    clearing = _clearing(store)
    sign_clearing(clearing, _user(), seen_of_clearing(clearing))


def _withdraw(store: Store) -> None:
    from normant.deliveries.models import Delivery  # noqa: PLC0415 (after setup)
    from normant.deliveries.services.withdraw_delivery import withdraw_delivery  # noqa: PLC0415

    store.withdrawn = True
    withdraw_delivery(Delivery.objects.get(project=store.project), _user(), "the wrong reel")


def _clearing(store: Store) -> "Clearing":
    from normant.clearings.models import Clearing  # noqa: PLC0415 (after setup)

    return Clearing.objects.get(pk=store.clearing)


def _in_states(stores: Sequence[Store], state: str) -> list[str]:
    close_old_connections()
    return [str(store) for store in stores if _clearing(store).state == state]


def _elsewhere(stores: Sequence[Store]) -> list[str]:
    held = {store.case.seat: store.case.folder / STANDS for store in stores}
    there = {seat: path.read_text("utf-8") if path.exists() else "" for seat, path in held.items()}
    return [str(store) for store in stores if there[store.case.seat] != store.step]


def _row(store: Store) -> "StoreClearing":
    from normant.clearings.models import StoreClearing  # noqa: PLC0415 (after setup)

    row: StoreClearing = StoreClearing.objects.get(of__clearing=store.clearing)
    return row


def _wrong(store: Store) -> str:
    """What went is what was listed and still was so, once, and as the figures say; empty where that is right."""
    row, lie, held = _row(store), store.lie(), store.held()
    gone = {name for name in store.inodes if lie.get(name) is None}
    expected = set(store.inodes) - store.stays
    if store.trouble == "renamed" and store.step in BEFORE:
        gone -= store.stays  # somebody took their names away
    if store.withdrawn and not gone:
        return "" if not row.cleared or row.is_back else f"nothing went, and it says {row.cleared}"
    if gone != expected:
        return f"gone are {sorted(gone)}, expected {sorted(expected)}"
    return _wrong_figures(store, row.core_cleared, expected, held) or _unaccounted(row)


def _wrong_figures(store: Store, cleared: Cleared | None, expected: set[str], held: Sequence[os.stat_result]) -> str:
    """Whether the seat tells of exactly these files, and holds them unless they were to go at once."""
    if cleared is None:
        return f"nothing is told of what went: {_row(store).failed}"
    size = sum(100 + int(name[:2]) for name in expected) * GRAIN
    if (cleared.items, cleared.size) != (len(expected), size):
        return f"{cleared.items} items, {cleared.size} bytes are told, {len(expected)}, {size} went"
    if store.at_once:
        return f"{len(held)} are held that were to go at once" if held else ""
    if {status.st_ino for status in held} != {store.inodes[name] for name in expected}:
        return f"{len(held)} are held, {len(expected)} went"
    return ""


def _unaccounted(row: "StoreClearing") -> str:
    cleared = row.core_cleared
    accounted = sum(reason.items for reason in cleared.reasons) + cleared.items if cleared else 0
    return "" if row.going == accounted else "not every item is accounted for"


def _wrong_when_put_back(stage: Stage, store: Store) -> str:
    """Everything that is held comes back to where it lay."""
    from normant.clearings.services.halt_clearing import put_clearing_back  # noqa: PLC0415 (after setup)

    went = {status.st_ino for status in store.held()}
    if not went:
        return ""
    put_clearing_back(_clearing(store), _user())
    stage.until("it is put back", lambda: [] if _row(store).put_back else [str(store)])
    lie = set(store.lie().values())
    return "" if went <= lie and not store.held() else f"{len(went - lie)} did not come back: {_row(store).put_back}"


def _print(stage: Stage) -> None:
    """The table: a row a fault, a column a step."""
    print("| fault | " + " | ".join(STEPS) + " |\n|---|" + "---|" * len(STEPS))
    for name, row in stage.rows.items():
        cells = (f"{row[step, True]} of {row[step, True] + row[step, False]}" for step in STEPS)
        print(f"| {name} | " + " | ".join(cells) + " |")
    for line in stage.wrong:
        print(line)
