"""Turns: how much of the work runs at once, in all and for each who asks, so that nobody starves others."""

import asyncio
import contextlib
from collections import Counter
from collections.abc import AsyncIterator

from normant.common.problems import Problem


class Turns:
    """At most `in_all` at once, `each` of them for one key; of each key at most `waiting` wait, the rest is refused.

    A key's own bound comes first: who asks for a hundred things at once waits in their own row and stands in nobody
    else's.
    """

    def __init__(self, *, in_all: int, each: int, waiting: int) -> None:
        self._all = asyncio.Semaphore(in_all)
        self._each, self._waiting = each, waiting
        self._rows: dict[str, asyncio.Semaphore] = {}
        self._asking = Counter[str]()

    @contextlib.asynccontextmanager
    async def turn(self, key: str) -> AsyncIterator[None]:
        """Wait for a turn and hold it. Raises Problem 429."""
        if self._asking[key] >= self._each + self._waiting:
            raise Problem(429, "Too much at once", f"{self._asking[key]} of your requests are waiting: try again later")
        self._asking[key] += 1
        row = self._rows.setdefault(key, asyncio.Semaphore(self._each))
        try:
            async with row, self._all:
                yield
        finally:
            self._asking[key] -= 1
            if not self._asking[key]:
                del self._asking[key], self._rows[key]
