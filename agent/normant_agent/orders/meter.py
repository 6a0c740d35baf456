"""Orders that measure: the meter's job, again and again, while nobody needs the machine."""

from normant_core.orders.kinds import Measure, Receipt

from ..errors import Waiting
from ..journal import Entry
from .work import Work

IDLE_SECONDS = 600


def measure(work: Work, order: str, action: Measure) -> Receipt:
    """Every run, in its order. Raises Waiting while somebody is at work: it would measure their work as well."""
    activity = work.host.activity()
    if activity.rendering:
        raise Waiting("the machine renders; waiting until it has finished, to measure")
    if activity.idle_seconds is not None and activity.idle_seconds < IDLE_SECONDS:
        minutes = IDLE_SECONDS // 60
        raise Waiting(f"somebody is at work; waiting until the machine was idle for {minutes} min, to measure")
    work.step(order, "checking")
    runs = tuple(work.host.measure(action.job) for _ in range(action.runs))
    return work.close(Entry(order), Receipt(order, "done", measured=runs))
