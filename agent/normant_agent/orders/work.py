"""What every order needs while it is carried out: the host, the journal, the dialects, whom to tell of each step."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

import msgspec

from normant_core.base.wording import app_title
from normant_core.dialects.dialect import BoundFile, Dialect
from normant_core.orders.kinds import LIMIT_CLIP, Progress, Receipt, bounded
from normant_core.seat.facts import Facts

from ..errors import DoorError, HostError, Refused, Waiting
from ..files import digest_of
from ..hosts.host import Host, Question
from ..journal import Entry, Journal
from .measuring.held import Holding

NOTHING_READ = Facts()
Report = Callable[[str, Progress], None]
Held = Literal["packages", "templates", "clips"]
HandIn = Callable[[str, int, bytes], None]
Fetch = Callable[[Held, str, Path, int], None]
LARGEST = {"packages": 4 * 1024**3, "templates": 2 * 1024**2, "clips": LIMIT_CLIP}  # bytes, as the house keeps them
Step = Literal["waiting", "checking", "saving", "applying", "restart", "reading_back"]


def to_nobody(order: str, number: int, piece: bytes) -> None:
    """To whom an agent without a house hands in lists."""
    raise HostError(f"there is no house that takes part {number} of a list")


def nowhere(what: Held, sha256: str, path: Path, size: int) -> None:
    """What an agent without a house fetches."""
    raise HostError(f"there is no house to fetch {sha256[:12]}… from")


@dataclass(frozen=True, slots=True)
class Work:
    """Orders at work on one host; `dialects` are as its applications speak them, `facts` as they were just read.

    `fetch` brings a package or a template that the house holds under a SHA-256 to a path, so many bytes at most;
    `hand_in` takes a part of the list that an order asks for to the house.
    `inner`: this is a part of another order. `holding` is what the machine is set for, for runs by hand.
    """

    host: Host
    journal: Journal
    report: Report
    dialects: Sequence[Dialect]
    facts: Facts = NOTHING_READ
    fetch: Fetch = nowhere
    hand_in: HandIn = to_nobody
    inner: bool = False
    holding: Holding = field(default_factory=Holding)

    def within(self, order: str) -> "Work":
        """For what is done as a part of an order: its steps are the order's, and of it no receipt is handed in."""
        return replace(self, report=lambda _, progress: self.report(order, progress), inner=True)

    def step(self, order: str, step: Step) -> None:
        """Tell that an order has come this far."""
        self.report(order, Progress(step))

    def close(self, entry: Entry, receipt: Receipt) -> Receipt:
        """The receipt, dated and kept: the order is over."""
        dated = bounded(msgspec.structs.replace(receipt, at=self.host.now()))
        self.journal.put(msgspec.structs.replace(entry, receipt=dated, sent=self.inner))
        return dated

    def file(self, app: str, name: str, *, at: str = "") -> BoundFile:
        """A file of an application's dialect; of several, the one `at` a path. Raises Refused where there is none."""
        files = [file for dialect in self.dialects if dialect.app == app for file in dialect.file]
        named = next((file for file in files if file.name == name), None)
        if named is None:
            raise Refused(f"no dialect of {app} has a file {name!r}")
        if named.many and not at:
            raise Refused(f"{name!r} of {app} stands for several files, which are not written")
        if named.many and not named.is_at(at):
            raise Refused(f"{at} is none of the files that {name!r} of {app} stands for")
        return msgspec.structs.replace(named, path=at) if named.many else named

    def fetched(self, what: Held, sha256: str, *, size: int = 0) -> Path:
        """It in the agent's own folder, verified. Raises HostError where what came is not what was named, or does not
        go there; `size` in bytes where the order says it."""
        path = self.journal.fetched(what) / sha256
        try:
            if not path.exists():
                if size:
                    self.host.check_room(path, size)
                self.fetch(what, sha256, path, size or LARGEST[what])
        except DoorError as fault:
            if fault.passing:
                raise Waiting(f"the house cannot be asked for {sha256[:12]}… now: {fault}") from fault
            raise
        if digest_of(path) != sha256:
            path.unlink()
            raise HostError(f"what came is not {sha256[:12]}…: nothing was done with it")
        return path

    def plugged_in(self) -> None:
        """Raises Waiting while only its battery feeds the machine: what is begun now might not end."""
        if self.host.activity().on_battery:
            raise Waiting("waiting: on battery power")

    def closed(self, order: str, app: str, idle_seconds: int) -> bool:
        """Whether the application was open and has been closed. Raises Waiting where its editor needs it.

        It is closed where nobody touched the machine for that long, or where whoever sits there agrees.
        """
        if not self.host.is_running(app):
            return False
        if (why := self.needed(app, idle_seconds)) and not self._agreed(order, app):
            raise Waiting(why)
        begun = self.journal.get(order) or Entry(order)
        self.journal.put(msgspec.structs.replace(begun, app=app, reopen=True))
        self.host.close(app)
        return True

    def needed(self, app: str, idle_seconds: int) -> str:
        """What the application that is open waits for before it may be closed without asking; empty for nothing.

        Raises Waiting where asking is no use, because something would be lost.
        """
        activity, name = self.host.activity(), app_title(app)
        if activity.unsaved:
            raise Waiting(f"{name} is open with unsaved work; waiting")
        if activity.rendering:
            raise Waiting(f"{name} is rendering; waiting")
        if activity.idle_seconds is not None and activity.idle_seconds >= idle_seconds:
            return ""
        minutes = max(1, idle_seconds // 60)
        return f"{name} is in use; waiting until it has been idle for {minutes} min"

    def _agreed(self, order: str, app: str) -> bool:
        """Whether whoever sits there agreed; not so where nobody answered, or this seat cannot ask."""
        text = f"Normant needs to close {app_title(app)} for about a minute."
        return self.host.ask(Question(order, text, may_put_off=True)) == "agreed"


def compared(name: str, here: str, expected: str, wanted: str) -> None:
    """Raises Refused where what is there is neither what the plan saw nor what it wants."""
    if here not in (expected, wanted):
        raise Refused(f"{name} has changed since the plan was made: the plan has {expected}, the seat {here}")
