"""The short way for surveys, past Django.

Nearly every survey tells nothing new: that is one statement. One that tells changes is two, and is judged by a worker
soon after. Whatever is not plain here (a fault, a stranger, a seat with orders) goes the long way, which knows all the
answers.
"""

import asyncio
import datetime as dt
import hashlib
import logging
from typing import Any

import msgspec
import orjson
from asgiref.sync import sync_to_async
from django.db import close_old_connections
from psycopg import AsyncConnection
from psycopg import Error as DatabaseFault
from psycopg_pool import AsyncConnectionPool, PoolTimeout

from normant.accounts.models import hashed
from normant.common.problems import Problem
from normant.findings.jobs import judge_soon
from normant.seats.services.take_survey import TAKE, question
from normant_core.seat.survey import LIMIT_BYTES, Survey, decode, is_sound

from .packing import unpacked
from .services.hand_in import AHEAD, UNCHANGED, unchanged

log = logging.getLogger(__name__)
Headers = dict[bytes, bytes]
LARGEST = 256 * 1024  # bytes of a survey that is read on the loop that everybody shares
PAUSE = 0.25  # seconds between two calls for a worker

# A seat with a leg at work, or with an order that may explain a change, goes the long way: it settles legs. Clocks of
# seats differ by up to AHEAD, so an order is looked at for a while longer than it need be.
PLAIN = """
SELECT p.seat_id FROM seats_presence p JOIN seats_seat s ON s.id = p.seat_id
 WHERE p.token_digest = %s AND s.name = %s AND p.taken_at < %s AND p.offer_id IS NULL
   AND NOT EXISTS (SELECT FROM rollouts_order o WHERE o.seat_id = p.seat_id AND o.withdrawn_at IS NULL
                      AND (o.received_at IS NULL OR o.received_at > p.taken_at - %s))
   AND NOT EXISTS (SELECT FROM rollouts_leg l WHERE l.seat_id = p.seat_id AND l.begun_at IS NOT NULL
                      AND l.ended_at IS NULL)
   FOR UPDATE OF p
"""


class QuickDoor:
    """Connections of its own to the database; opened and closed with the process."""

    def __init__(self, connection: dict[str, Any]) -> None:
        how = {**connection, "autocommit": True}
        self._pool: AsyncConnectionPool[AsyncConnection] = AsyncConnectionPool(
            kwargs=how, min_size=1, max_size=8, timeout=2, open=False
        )
        self._unjudged = asyncio.Event()

    async def open(self) -> None:
        """Begin connecting; until that is done surveys go the long way."""
        await self._pool.open(wait=False)

    async def close(self) -> None:
        """Let go of the connections."""
        await self._pool.close()

    async def answer(self, headers: Headers, raw: bytes) -> bytes | None:
        """The answer to a plain survey; None where the long way must answer."""
        asked = Asked.of(headers, raw)
        if asked is None:
            return None
        try:
            async with self._pool.connection() as connection:
                result = await connection.execute(UNCHANGED, asked.unchanged, prepare=True)
                if row := await result.fetchone():
                    return orjson.dumps({"changed": False, "orders": row[0]})
                return await self._changed(connection, asked)
        except (DatabaseFault, PoolTimeout) as fault:
            log.warning("the short way is barred", extra={"reason": str(fault).strip()})
            return None
        except Exception:  # whatever it is, the long way has an answer
            log.exception("the short way failed")
            return None

    async def _changed(self, connection: AsyncConnection, asked: "Asked") -> bytes | None:
        if not asked.is_sound():
            return None
        async with connection.transaction():
            result = await connection.execute(PLAIN, asked.plain, prepare=True)
            row = await result.fetchone()
            if row is None:
                return None
            take = question(row[0], asked.survey, asked.body, asked.digest)
            await connection.execute(TAKE, take, prepare=True)
        self._unjudged.set()
        return orjson.dumps({"changed": True, "orders": 0})

    async def call_judges(self) -> None:
        """Until cancelled: whenever surveys were taken in, see that a worker judges them."""
        while True:
            await self._unjudged.wait()
            self._unjudged.clear()
            try:
                await sync_to_async(_call_a_worker, thread_sensitive=False)()
            except Exception as fault:  # the sweep of each minute finds what is left
                log.warning("no worker was called", extra={"reason": str(fault).strip()})
            await asyncio.sleep(PAUSE)


def _call_a_worker() -> None:
    close_old_connections()  # nobody does it for a thread that serves no request
    judge_soon()


class Asked(msgspec.Struct, frozen=True):
    """A request that may be plain: whose token, the body unpacked, the survey in it and the digest of its content."""

    token: str
    body: bytes
    survey: Survey
    digest: bytes

    @classmethod
    def of(cls, headers: Headers, raw: bytes) -> "Asked | None":
        """None for a request that is not plain."""
        kind, _, token = headers.get(b"authorization", b"").decode("latin-1").partition(" ")
        if kind.lower() != "bearer" or len(raw) > LIMIT_BYTES:
            return None
        try:
            body = unpacked(raw, headers.get(b"content-encoding", b"").decode("latin-1"))
            survey = decode(body)
        except (Problem, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return None
        return cls(hashed(token), body, survey, hashlib.sha256(survey.content()).digest())

    @property
    def unchanged(self) -> list[Any]:
        """What UNCHANGED asks."""
        return unchanged(self.survey, self.token, self.digest)

    @property
    def plain(self) -> list[Any]:
        """What PLAIN asks."""
        return [self.token, self.survey.seat, self.survey.taken_at, AHEAD]

    def is_sound(self) -> bool:
        """Whether every value is right, and it was not taken in the future."""
        if len(self.body) > LARGEST or self.survey.taken_at > dt.datetime.now(dt.UTC) + AHEAD:
            return False
        return is_sound(self.survey)
