"""Answers on their way out: a thread hands its answer over and is free; a reader that does not read is let go."""

import asyncio
from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any

from normant.common.problems import Problem, written

Message = MutableMapping[str, Any]
Send = Callable[[Message], Awaitable[None]]

STALLED_SECONDS = 20.0  # a reader takes 64 KiB in that time, or is gone
OWN_BYTES = 8 * 1024 * 1024  # of one answer that may wait for its reader while the thread goes on
ALL_BYTES = 96 * 1024 * 1024  # of all answers of this process


class Stalled(Exception):
    """A reader took nothing for too long."""


async def send_in_time(send: Send, message: Message) -> None:
    """Raises Stalled."""
    try:
        await asyncio.wait_for(send(message), STALLED_SECONDS)
    except TimeoutError:
        raise Stalled from None


class Outbox:
    """An answer that waits for its reader. Threads may fill it as long as the bounds hold, then they wait as well."""

    _all = 0

    def __init__(self, send: Send) -> None:
        self._send, self._own = send, 0
        self._messages: asyncio.Queue[Message | None] = asyncio.Queue()
        self._room = asyncio.Event()
        self._room.set()
        self._post = asyncio.create_task(self._deliver())

    async def put(self, message: Message) -> None:
        """Take a part of the answer. Raises Stalled once its reader is given up."""
        while self._own and (self._own > OWN_BYTES or Outbox._all > ALL_BYTES) and not self._post.done():
            self._room.clear()
            await self._room.wait()
        if self._post.done():
            self._post.result()
            return
        self._count(len(message.get("body", b"")))
        self._messages.put_nowait(message)

    async def close(self) -> None:
        """Wait until everything is delivered. Raises Stalled."""
        self._messages.put_nowait(None)
        await self._post

    def drop(self) -> None:
        """Deliver nothing more."""
        self._post.cancel()

    async def _deliver(self) -> None:
        try:
            while (message := await self._messages.get()) is not None:
                await send_in_time(self._send, message)
                self._count(-len(message.get("body", b"")))
                self._room.set()
        finally:
            self._count(-self._own)
            self._room.set()

    def _count(self, size: int) -> None:
        self._own += size
        Outbox._all += size


async def refuse(send: Send, problem: Problem, *, close: bool = False) -> None:
    """Send a problem; with `close` its last part is for the caller to send, and the connection ends with it."""
    raw = written(problem)
    head = [(b"content-type", b"application/problem+json"), (b"content-length", str(len(raw)).encode())]
    head += [(name.lower().encode(), value.encode()) for name, value in problem.headers.items()]
    if close:
        head.append((b"connection", b"close"))
    await send_in_time(send, {"type": "http.response.start", "status": problem.status, "headers": head})
    await send_in_time(send, {"type": "http.response.body", "body": raw, "more_body": close})


async def send_json(send: Send, raw: bytes) -> None:
    """Send what is JSON already."""
    head = [(b"content-type", b"application/json"), (b"content-length", str(len(raw)).encode())]
    await send_in_time(send, {"type": "http.response.start", "status": 200, "headers": head})
    await send_in_time(send, {"type": "http.response.body", "body": raw})
