"""How long and how often the person at a seat may put a rollout off."""

import datetime as dt

LONGEST = dt.timedelta(days=3)  # behind the moment at which the seat was first to have its turn
SOONEST = dt.timedelta(minutes=5)


def latest(planned: dt.datetime, ends: dt.datetime | None) -> dt.datetime:
    """The last moment to which a turn may be put off: three days, or the deadline where that comes first."""
    return min(planned + LONGEST, ends) if ends else planned + LONGEST


def why_not(*, most: int, times: int, until: dt.datetime, now: dt.datetime, last: dt.datetime) -> str:
    """Why a turn cannot be put off until then; empty where it can. `times` it was put off before, of `most`."""
    if not most:
        return "this rollout cannot be put off; object, and say why"
    if times >= most:
        return f"it was put off {times} times already; object, and say why"
    if until < now + SOONEST:
        return "choose a moment that is at least five minutes away"
    if until > last:
        return f"it can be put off until {last:%a %d %b %H:%M} at the latest; object, and say why"
    return ""
