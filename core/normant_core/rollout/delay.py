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
        return "this rollout cannot be postponed; send an objection with the reason"
    if times >= most:
        return f"postponed {times} times already; send an objection with the reason"
    if until < now + SOONEST:
        return "choose a time at least 5 minutes from now"
    if until > last:
        return f"it can be postponed until {last:%a %d %b %H:%M} at the latest; otherwise send an objection"
    return ""
