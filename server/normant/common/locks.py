"""Advisory locks of PostgreSQL, held until the transaction ends.

Nobody waits in a circle, because everybody takes locks in one order: a sentence of "standing care", a seat's legs
("leg", several in the order of their keys), the row of a rollout, other rows, a seat's findings ("evaluate"), and last
the ledger.
"""

import hashlib
from collections.abc import Iterable

from django.db import connection


def lock(kind: str, subjects: Iterable[str] = ("",)) -> None:
    """Wait for every subject's lock of that kind."""
    keys = sorted(int.from_bytes(hashlib.sha256(f"{kind}:{s}".encode()).digest()[:8], signed=True) for s in subjects)
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(key) FROM unnest(%s::bigint[]) AS key", [keys])
