"""The chain of the ledger: each entry holds the SHA-256 of the one before, so that none can be changed or left out.

What is hashed is kept as it was hashed: a number that JSON can spell in two ways breaks nothing. Entries that were
written before that have no such bytes, and are verified as they were.

A chain cannot tell that its end was cut off. So its head is signed from time to time, with a key that nothing else
uses; whoever holds a signed head can tell.
"""

import base64
import hashlib
from collections.abc import Iterable, Iterator
from typing import Any

import msgspec
import orjson

from .errors import DocumentError, Fault

GENESIS = "0" * 64  # what the first entry holds as the hash of the one before
LIMIT_LINE = 1024 * 1024  # bytes of an entry


class LedgerEntry(msgspec.Struct, frozen=True):
    """One act as the ledger is handed out, a line of JSON each; `at` in ISO 8601 as it was written.

    `body` is the canonical JSON that was hashed, empty in entries of the first version.
    """

    at: str
    actor: str
    action: str
    subject: str
    detail: dict[str, Any]
    previous: str
    digest: str
    body: str = ""


class Head(msgspec.Struct, frozen=True):
    """The end of the ledger at a moment: how many entries, the hash of the last, and the house's signature (Ed25519,
    RFC 8032, base64) of these by the key whose 32 bytes `key` holds in base64."""

    entries: int
    digest: str
    at: str
    signature: str = ""
    key: str = ""

    @property
    def signed_bytes(self) -> bytes:
        """What is signed."""
        return b"normant-ledger-head/1\n" + orjson.dumps([self.entries, self.digest, self.at])


def canonical(entry: LedgerEntry) -> bytes:
    """What is hashed of an entry, the hash of the entry before it included."""
    fields = [entry.at, entry.actor, entry.action, entry.subject, entry.detail, entry.previous]
    return orjson.dumps(fields, option=orjson.OPT_SORT_KEYS, default=str)


def digest_of(entry: LedgerEntry) -> str:
    """SHA-256 of an entry, in hexadecimal."""
    return hashlib.sha256(entry.body.encode() if entry.body else canonical(entry)).hexdigest()


def faults_of(entry: LedgerEntry, previous: str) -> list[str]:
    """Everything that is wrong with an entry behind the one whose hash is `previous`; empty where it is whole."""
    faults = []
    if entry.previous != previous:
        faults.append("it does not follow the entry before it")
    if entry.digest != digest_of(entry):
        faults.append("its content is not what its hash says")
    if entry.body and not _says_the_same(entry):
        faults.append("it says something else than what was hashed")
    return faults


def verified(entries: Iterable[LedgerEntry], head: Head | None = None) -> Iterator[tuple[int, LedgerEntry | None, str]]:
    """(number, entry, fault) of every fault of a chain, oldest first; an entry that is not there is None.

    With the head of an earlier moment, also where the chain does not reach so far, or another entry stands there.
    """
    previous, number, at_head = GENESIS, 0, GENESIS
    for number, entry in enumerate(entries, 1):
        for fault in faults_of(entry, previous):
            yield number, entry, fault
        previous = entry.digest
        if head and number == head.entries:
            at_head = entry.digest
    if head:
        yield from _against(head, number, at_head)


def _against(head: Head, number: int, digest: str) -> Iterator[tuple[int, None, str]]:
    """What an earlier head says of a chain of `number` entries that has this digest where the head was."""
    if number < head.entries:
        message = f"the ledger ends here; at {head.at} it had {head.entries} entries: its end was cut off"
        yield number + 1, None, message
    elif digest != head.digest:
        yield head.entries, None, f"another entry stood here at {head.at}"


def read_ledger(lines: Iterable[bytes], source: str = "ledger") -> Iterator[LedgerEntry]:
    """Entries, oldest first, from lines of JSON. Raises DocumentError with the line."""
    for number, line in enumerate(lines, 1):
        if line.strip():
            try:
                if len(line) > LIMIT_LINE:
                    raise msgspec.DecodeError(f"the line has {len(line):,} bytes")
                yield msgspec.json.decode(line, type=LedgerEntry)
            except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
                broken = Fault(str(fault), line=number, column=1, expected="an entry as the ledger is handed out")
                raise DocumentError(source, [broken]) from fault


def read_head(raw: bytes, source: str = "head") -> Head:
    """A head as `GET /api/v1/ledger/head` tells it. Raises DocumentError."""
    try:
        head = msgspec.json.decode(raw, type=Head)
        base64.b64decode(head.signature, validate=True)
        base64.b64decode(head.key, validate=True)
    except (msgspec.DecodeError, RecursionError, ValueError) as fault:
        broken = Fault(str(fault), line=1, column=1, expected="a signed head of a ledger")
        raise DocumentError(source, [broken]) from fault
    return head


def fingerprint(key: bytes) -> str:
    """A public key as people compare it: the first 16 bytes of its SHA-256, in groups of four digits."""
    text = hashlib.sha256(key).hexdigest()[:32]
    return " ".join(text[place : place + 4] for place in range(0, 32, 4))


def _says_the_same(entry: LedgerEntry) -> bool:
    try:
        fields = orjson.loads(entry.body)
    except ValueError:
        return False
    return bool(fields == [entry.at, entry.actor, entry.action, entry.subject, entry.detail, entry.previous])
