"""The one place where tests wait: until something holds, never for a while."""

import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")
PATIENCE_SECONDS = 90  # events decide when; this only ends a failure, also where others take the machine
_BETWEEN_SECONDS = 0.02


def until(holds: Callable[[], T | None], seconds: float = PATIENCE_SECONDS, why: Callable[[], str] = str) -> T:
    """Return what `holds` gives once that is true. Raises AssertionError, with `why`, where it is not by then."""
    deadline = time.monotonic() + seconds
    while not (result := holds()):
        if time.monotonic() > deadline:
            raise AssertionError(f"this did not come about within {seconds:g} s\n{why()}".rstrip())
        time.sleep(_BETWEEN_SECONDS)
    return result
