"""The chain of the ledger: each entry holds the SHA-256 of the one before, so that none can be changed or left out."""

import hashlib
from collections.abc import Iterable, Iterator
from typing import Any

import msgspec
import orjson

from .errors import DocumentError, Fault

GENESIS = "0" * 64  # what the first entry holds as the hash of the one before


class Entry(msgspec.Struct, frozen=True):
    """One act as the ledger is handed out, a line of JSON each; `at` in ISO 8601 as it was written."""

    at: str
    actor: str
    action: str
    subject: str
    detail: dict[str, Any]
    previous: str
    digest: str


def digest_of(entry: Entry) -> str:
    """SHA-256 over the canonical JSON of an entry, the hash of the entry before it included; in hexadecimal."""
    told = [entry.at, entry.actor, entry.action, entry.subject, entry.detail, entry.previous]
    return hashlib.sha256(orjson.dumps(told, option=orjson.OPT_SORT_KEYS)).hexdigest()


def fits(entry: Entry, previous: str) -> bool:
    """Whether an entry is what was written, behind the one whose hash is `previous`."""
    return entry.previous == previous and entry.digest == digest_of(entry)


def read_ledger(lines: Iterable[bytes], source: str = "ledger") -> Iterator[Entry]:
    """Entries, oldest first, from lines of JSON. Raises DocumentError with the line."""
    for number, line in enumerate(lines, 1):
        if line.strip():
            try:
                yield msgspec.json.decode(line, type=Entry)
            except (msgspec.DecodeError, UnicodeDecodeError) as fault:
                told = Fault(str(fault), line=number, column=1, expected="an entry as the ledger is handed out")
                raise DocumentError(source, [told]) from fault
