"""What goes wrong again and again: said once, then once an hour, and tried ever more seldom."""

import logging
import random
import time

log = logging.getLogger(__name__)
AGAIN_SECONDS = 3600.0


class Trouble:
    """Of one thing that an agent does over and over."""

    def __init__(self, what: str, seat: str) -> None:
        self._what, self._seat = what, seat
        self._times, self._since, self._said = 0, 0.0, 0.0

    def failed(self, reason: str, *, unforeseen: bool = False) -> None:
        """It failed. The first time it is said, with where where nobody foresaw it; then once an hour how often."""
        now = time.monotonic()
        self._times += 1
        if self._times == 1:
            self._since = self._said = now
            log.warning(
                "not done", exc_info=unforeseen, extra={"what": self._what, "seat": self._seat, "reason": reason}
            )
        elif now - self._said >= AGAIN_SECONDS:
            self._said = now
            minutes = round((now - self._since) / 60)
            log.warning(
                "still not done",
                extra={
                    "what": self._what,
                    "seat": self._seat,
                    "reason": reason,
                    "times": self._times,
                    "minutes": minutes,
                },
            )

    def over(self) -> None:
        """It went well."""
        if self._times > 1:
            log.info("done again", extra={"what": self._what, "seat": self._seat, "after": self._times})
        self._times = 0

    def pause(self, first: float, longest: float) -> float:
        """Seconds until it is tried again: twice as long each time, and never the same for all seats of a house, which
        else would all come at once when the server is back."""
        longer = float(2 ** min(self._times - 1, 16))
        return min(longest, first * longer) * random.uniform(0.5, 1.0)
