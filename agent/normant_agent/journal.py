"""The agent's memory of orders: written before a file is touched, so that a crash at any moment can be settled."""

import datetime as dt
import shutil
from collections.abc import Iterable, Iterator
from pathlib import Path

import msgspec

from normant_core.orders.clearing import Cleared, Deleted
from normant_core.orders.kinds import Receipt

from .care.held_record import HeldRecord
from .errors import HostError, JournalError
from .files import digest, read, write_atomically


class Touched(msgspec.Struct, frozen=True):
    """A native text before and after, as the order found and left it; `added` where the file had no such key."""

    setting: str
    at: str
    before: str
    after: str
    added: bool = False


class Entry(msgspec.Struct, frozen=True):
    """One order: what it is about to do, and the receipt once it is done.

    `held` is the digest of the file as it was read back: put back restores the kept copy exactly where the file still
    has it. `reopen`: the agent closed `app` and has yet to open it. `system` is a setting that the system holds, with
    its values; `older` the package of the driver that was there. `gone`: what was there before was removed. What was
    cleared of a store lies in a holding folder within `holds`, until it is `let_go`: of the list with that digest that
    an order `plan` made, so much was `cleared`. `deleting`: its day is over, and its deletion was begun; `deleted` is
    what became of it. `booted` is when the machine had started when it was first asked to
    start again, `restarts` until when it may take to; `put_off` how often that was put off, and `later` until when.
    """

    order: str
    file: str = ""
    app: str = ""
    file_name: str = ""
    held: str = ""
    touched: tuple[Touched, ...] = ()
    system: str = ""
    value_before: str = ""
    value_after: str = ""
    older: str = ""
    reopen: bool = False
    gone: bool = False
    holds: str = ""
    plan: str = ""
    list_digest: str = ""
    cleared: Cleared | None = None
    let_go: bool = False
    deleting: bool = False
    deleted: Deleted | None = None
    booted: str = ""
    restarts: dt.datetime | None = None
    put_off: int = 0
    later: dt.datetime | None = None
    receipt: Receipt | None = None
    sent: bool = False


class Journal:
    """Entries and kept copies in a folder of the agent's own."""

    def __init__(self, folder: Path) -> None:
        self._entries, self._copies = folder / "journal", folder / "copies"
        self._folder, self._held, self._reports = folder, folder / "held", folder / "deletions"
        for made in (self._entries, self._copies, self._held, self._reports):
            made.mkdir(parents=True, exist_ok=True, mode=0o700)
        self._done = set[str]()  # entries that need not be looked at again: a journal grows for years

    def fetched(self, what: str) -> Path:
        """The folder of what was fetched of a kind, each by its SHA-256."""
        folder = self._folder / what
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        return folder

    def get(self, order: str) -> Entry | None:
        """The entry of an order that was begun."""
        path = self._entries / f"{_safe(order)}.json"
        return msgspec.json.decode(path.read_bytes(), type=Entry) if path.exists() else None

    def put(self, entry: Entry) -> Entry:
        """Write an entry through to the disk. Raises JournalError."""
        self._write(self._entries / f"{_safe(entry.order)}.json", msgspec.json.encode(entry))
        return entry

    def unsent(self) -> list[Entry]:
        """Entries whose receipt the server has not taken yet, oldest first."""
        fresh = (path for path in self._entries.glob("*.json") if path.stem not in self._done)
        paths = sorted(fresh, key=lambda p: p.stat().st_mtime_ns)
        entries = [msgspec.json.decode(path.read_bytes(), type=Entry) for path in paths]
        self._done.update(entry.order for entry in entries if entry.sent)
        return [entry for entry in entries if entry.receipt and not entry.sent]

    def list_of(self, order: str, digest: str) -> Path:
        """Where a list of what would go is, which an order made."""
        return self._folder / "lists" / _safe(order) / f"{_safe(digest)}.jsonl"

    def new_list(self, order: str, number: int) -> Path:
        """Where a list is written, before its digest is known."""
        return self._folder / "lists" / _safe(order) / f"new-{number}.jsonl"

    def forget_lists(self, before: dt.datetime) -> None:
        """Lists that were made before a moment go, but those of what is held."""
        held = {entry.plan for entry in self.holding()}
        for folder in (self._folder / "lists").glob("*"):
            if folder.name not in held and folder.stat().st_mtime < before.timestamp():
                shutil.rmtree(folder, ignore_errors=True)

    def holding(self) -> list[Entry]:
        """Entries of orders whose items lie in a holding folder."""
        paths = [self._entries / f"{path.name}.json" for path in self._held.iterdir() if not path.suffix]
        return [msgspec.json.decode(path.read_bytes(), type=Entry) for path in paths if path.exists()]

    def holds_in(self, store: Path) -> bool:
        """Whether files of a store, by its real path, are held for some order."""
        return any(Path(entry.holds) == store for entry in self.holding())

    def begin_holding(self, entry: Entry) -> Entry:
        """Before the first item is held for an order. Raises JournalError."""
        path = self._held / _safe(entry.order)
        if not path.exists():
            self._write(path, b"")
        return self.put(entry)

    def held_record(self, order: str) -> HeldRecord:
        """The record of what an order holds."""
        return HeldRecord(self._held / _safe(order))

    def end_holding(self, entry: Entry) -> None:
        """Nothing is held for it any more. Raises JournalError."""
        self.put(msgspec.structs.replace(entry, let_go=True))
        self.held_record(entry.order).path.unlink(missing_ok=True)

    def report_deleted(self, entry: Entry, deleted: Deleted) -> Entry:
        """Keep what became of held files, in the entry and until the house was told. Raises JournalError."""
        self._write(self._reports / f"{_safe(entry.order)}.json", msgspec.json.encode(deleted))
        return self.put(msgspec.structs.replace(entry, deleted=deleted))

    def unreported(self) -> Iterator[tuple[str, Deleted]]:
        """Orders of which the house was not told yet what became of their files."""
        for path in sorted(self._reports.glob("*.json")):
            yield path.stem, msgspec.json.decode(path.read_bytes(), type=Deleted)

    def reported(self, order: str) -> None:
        """The house was told."""
        (self._reports / f"{_safe(order)}.json").unlink(missing_ok=True)

    def proposed(self) -> set[str]:
        """Exports that the house was told of, each by what tells it from another."""
        path = self._folder / "proposed.json"
        return set(msgspec.json.decode(path.read_bytes(), type=list[str])) if path.exists() else set()

    def keep_proposed(self, exports: Iterable[str]) -> None:
        """Remember them. Raises JournalError."""
        self._write(self._folder / "proposed.json", msgspec.json.encode(sorted(exports)))

    def keep(self, order: str, content: bytes, *, anew: bool = False) -> None:
        """Keep a copy of a file before its first touch; a copy that is there stays, unless it is taken `anew`.

        Raises JournalError.
        """
        path = self._copies / f"{_safe(order)}.bytes"
        if anew or not path.exists():
            self._write(path, content)

    def _write(self, path: Path, content: bytes) -> None:
        try:
            write_atomically(path, content)
        except HostError as fault:
            raise JournalError(f"the agent cannot keep a journal: {fault}") from fault

    def forget(self, order: str) -> None:
        """Nothing of an order leads anywhere any more: its entry and its copy go."""
        (self._entries / f"{_safe(order)}.json").unlink(missing_ok=True)
        (self._copies / f"{_safe(order)}.bytes").unlink(missing_ok=True)

    def begin_trial(self, order: str, count: int) -> None:
        """Before the first of so many changes is made for an order's runs. Raises JournalError."""
        self._write(self._folder / "trial.json", msgspec.json.encode((order, count)))

    def trial(self) -> tuple[str, int] | None:
        """The order whose runs this machine is set for, and how many changes that takes; None for none."""
        path = self._folder / "trial.json"
        return msgspec.json.decode(path.read_bytes(), type=tuple[str, int]) if path.exists() else None

    def end_trial(self) -> None:
        """Everything was put back."""
        (self._folder / "trial.json").unlink(missing_ok=True)

    def copy_of(self, order: str) -> bytes:
        """The copy. Raises HostError where there is none."""
        path = self._copies / f"{_safe(order)}.bytes"
        if not path.exists():
            raise HostError(f"no copy was kept for order {order}")
        return read(path)


def holds(entry: Entry, content: bytes) -> bool:
    """Whether the file is still what the order left."""
    return bool(entry.held) and digest(content) == entry.held


def _safe(order: str) -> str:
    if not order or not all(c.isalnum() or c == "-" for c in order):
        raise HostError(f"{order!r} is no order's name")
    return order
