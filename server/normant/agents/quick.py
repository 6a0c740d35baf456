"""The short way for a survey that tells nothing new: one statement, past Django.

Nearly every survey is of this kind. Whatever is not plain here (a fault, a stranger, news) goes the long way, which
knows all the answers.
"""

import hashlib
from typing import Any

import msgspec
import orjson
import structlog
from psycopg import AsyncConnection, OperationalError
from psycopg_pool import AsyncConnectionPool, PoolTimeout

from normant.accounts.models import hashed
from normant.common.problems import Problem
from normant_core.survey import LIMIT_BYTES, decode

from .packing import unpacked
from .services.hand_in import UNCHANGED

log = structlog.get_logger()
Headers = dict[bytes, bytes]


class QuickDoor:
    """Connections of its own to the database; opened and closed with the process."""

    def __init__(self, connection: dict[str, Any]) -> None:
        how = {**connection, "autocommit": True}
        self._pool: AsyncConnectionPool[AsyncConnection] = AsyncConnectionPool(
            kwargs=how, min_size=1, max_size=4, timeout=2, open=False
        )

    async def open(self) -> None:
        """Begin connecting; until that is done surveys go the long way."""
        await self._pool.open(wait=False)

    async def close(self) -> None:
        """Let go of the connections."""
        await self._pool.close()

    async def unchanged(self, headers: Headers, raw: bytes) -> bytes | None:
        """The answer to a survey that tells what the last one told; None where the long way must answer."""
        asked = question(headers, raw)
        if asked is None:
            return None
        try:
            async with self._pool.connection() as connection:
                found = await connection.execute(UNCHANGED, asked, prepare=True)
                row = await found.fetchone()
        except (OperationalError, PoolTimeout) as fault:
            log.warning("the short way is barred", reason=str(fault).strip())
            return None
        return orjson.dumps({"changed": False, "orders": row[0]}) if row else None


def question(headers: Headers, raw: bytes) -> list[Any] | None:
    """What UNCHANGED asks for this request; None for a request that is not plain."""
    kind, _, token = headers.get(b"authorization", b"").decode("latin-1").partition(" ")
    if kind.lower() != "bearer" or len(raw) > LIMIT_BYTES:
        return None
    try:
        survey = decode(unpacked(raw, headers.get(b"content-encoding", b"").decode("latin-1")))
    except (Problem, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return None
    digest = hashlib.sha256(survey.content()).digest()
    return [survey.taken_at, survey.activity.idle_seconds, hashed(token), digest, survey.taken_at]
