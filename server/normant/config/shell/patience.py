"""Patience: whoever is refused again and again gets answers later and later, at no cost to anybody else."""

import asyncio
import time
from collections import OrderedDict

FREE = 30  # refusals that anybody may have, such as a page that is open in ten tabs after its session ended
FORGIVEN = 3.0  # a second
STEP = 0.05  # seconds, for each refusal beyond
LONGEST = 4.0
KNOWN = 10_000  # keys that are remembered


class Patience:
    """Counts refusals by person, and by address of those who are unknown; what is owed wears off. For the loop alone.

    People who signed in at an address from which others are refused, behind one proxy or one router, do not wait.
    """

    def __init__(self, longest: float = LONGEST) -> None:
        self._longest = longest
        self._owed: OrderedDict[str, tuple[float, float]] = OrderedDict()

    def refused(self, key: str) -> None:
        """Count one."""
        self._owed[key] = (min(self._left(key) + 1, FREE + LONGEST / STEP), time.monotonic())
        self._owed.move_to_end(key)
        while len(self._owed) > KNOWN:
            self._owed.popitem(last=False)

    def pause(self, key: str) -> float:
        """Seconds that this key waits for its next answer."""
        return min(self._longest, max(0.0, self._left(key) - FREE) * STEP)

    async def keep(self, key: str) -> None:
        """Wait for as long."""
        if pause := self.pause(key):
            await asyncio.sleep(pause)

    def _left(self, key: str) -> float:
        owed, at = self._owed.get(key, (0.0, 0.0))
        return max(0.0, owed - (time.monotonic() - at) * FORGIVEN)
