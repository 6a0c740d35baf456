"""Bodies of requests, read whole on the loop: no thread waits for what somebody may never send."""

import asyncio
import tempfile
import time
from collections.abc import Awaitable, Callable, MutableMapping
from typing import IO, Any

from normant.common.problems import Problem

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]

PATIENCE_SECONDS = 10.0  # between two parts of a body, and before the least pace counts
LEAST_PACE = 16 * 1024  # bytes a second, over all that came so far
IN_MEMORY = 1024 * 1024  # bytes; what is larger waits on disk
_PART = 256 * 1024
_LINGER_SECONDS = 2.0
_LINGER_BYTES = 4 * 1024 * 1024


class Gone(Exception):
    """Whoever asked has closed the connection."""


async def read_whole(receive: Receive, limit: int) -> IO[bytes]:
    """The body, at its start; the caller closes it. Raises Problem 408 where it comes too slowly, 413 where it is
    larger than `limit` bytes, and Gone."""
    body = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY)  # noqa: SIM115 (the caller closes it)
    begun, size = time.monotonic(), 0
    try:
        while True:
            try:
                message = await asyncio.wait_for(receive(), PATIENCE_SECONDS)
            except TimeoutError:
                raise too_slow() from None
            if message["type"] != "http.request":
                raise Gone
            part = message.get("body", b"")
            size += len(part)
            if size > limit:
                raise too_large(limit)
            body.write(part)
            if not message.get("more_body"):
                body.seek(0)
                return body
            if time.monotonic() - begun > PATIENCE_SECONDS + size / LEAST_PACE:
                raise too_slow()
    except BaseException:
        body.close()
        raise


def replayed(body: IO[bytes]) -> Receive:
    """A `receive` that hands out a body that is there already."""
    ended = False

    async def receive() -> Message:
        nonlocal ended
        if ended:
            return {"type": "http.disconnect"}
        part = body.read(_PART)
        ended = len(part) < _PART
        return {"type": "http.request", "body": part, "more_body": not ended}

    return receive


async def pour_away(receive: Receive) -> None:
    """Read on for a moment, so that the answer is not lost with a connection that closes while somebody still sends."""
    size = 0
    try:
        async with asyncio.timeout(_LINGER_SECONDS):
            while size <= _LINGER_BYTES:
                message = await receive()
                size += len(message.get("body", b""))
                if message["type"] != "http.request" or not message.get("more_body"):
                    return
    except TimeoutError:
        return


def too_slow() -> Problem:
    """A body that trickles, or does not come."""
    return Problem(408, "Too slow", f"a body comes at {LEAST_PACE // 1024} KiB a second at least: send it again")


def too_large(limit: int) -> Problem:
    """A body beyond the bound of its route."""
    return Problem(413, "Too large", f"this address takes at most {limit:,} bytes")
