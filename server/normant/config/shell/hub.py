"""News from PostgreSQL to everybody who listens in this process, over one connection."""

import asyncio
import contextlib
import itertools
import logging
import secrets
from collections import deque
from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Any

import orjson
import psycopg
from django.conf import settings

from normant.common.events import CHANNEL
from normant.common.numbers import is_number

log = logging.getLogger(__name__)
KEPT = 512  # news that a client who was away for a moment may catch up with


@dataclass(frozen=True, slots=True)
class News:
    """One notification; `number` counts them in this process."""

    number: int
    topic: str
    subject: str


class Hub:
    """Listens, numbers, keeps the last few, and hands on."""

    def __init__(self) -> None:
        self.epoch = secrets.token_hex(4)  # numbers of another process mean nothing here
        self._numbers = itertools.count(1)
        self._kept: deque[News] = deque(maxlen=KEPT)
        self._queues: set[asyncio.Queue[News]] = set()

    async def listen(self) -> None:
        """Until cancelled; after a lost connection everybody is told to read anew."""
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**connection_of(), autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    async for notify in connection.notifies():
                        event = orjson.loads(notify.payload)
                        self._publish(event["topic"], event["id"])
            except psycopg.OperationalError as fault:
                log.warning("listening interrupted", extra={"reason": str(fault).strip()})
                await asyncio.sleep(1)
            self._publish("everything", "")

    @contextlib.contextmanager
    def queue(self) -> Any:
        """A queue that gets the news while it is open."""
        queue: asyncio.Queue[News] = asyncio.Queue(maxsize=1000)
        self._queues.add(queue)
        try:
            yield queue
        finally:
            self._queues.discard(queue)

    def missed(self, last_id: str) -> list[News]:
        """What came after `last_id`; where that is not known any more, the advice to read everything anew."""
        epoch, _, number = last_id.partition("-")
        oldest = self._kept[0].number if self._kept else 1
        if epoch != self.epoch or not is_number(number) or int(number) < oldest - 1:
            return [News(0, "everything", "")]
        return [news for news in self._kept if news.number > int(number)]

    def _publish(self, topic: str, subject: str) -> None:
        news = News(next(self._numbers), topic, subject)
        self._kept.append(news)
        for queue in self._queues:
            if queue.full():  # a client that does not keep up reads everything anew
                while not queue.empty():
                    queue.get_nowait()
                queue.put_nowait(News(0, "everything", ""))
            queue.put_nowait(news)


async def until(queue: asyncio.Queue[News], seconds: float) -> AsyncIterator[News | None]:
    """News as it comes; None each time that nothing came for that long."""
    while True:
        try:
            yield await asyncio.wait_for(queue.get(), seconds)
        except TimeoutError:
            yield None


def connection_of() -> dict[str, Any]:
    database = settings.DATABASES["default"]
    names = {"NAME": "dbname", "USER": "user", "PASSWORD": "password", "HOST": "host", "PORT": "port"}
    where = {ours: database[name] for name, ours in names.items() if database.get(name)}
    return {**where, **database["OPTIONS"]}
