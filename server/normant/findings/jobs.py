"""Jobs that judge seats anew."""

import contextlib

from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from normant.seats.models import Presence, Seat
from normant.standards.current import current_judge
from normant.standards.models import Edition
from normant_core.standard.parse import parse_published

from .services.draft import publish_those_due
from .services.evaluate import evaluate, judge_news
from .services.follow import follow
from .services.waive import end_those_over

AT_ONCE = 100  # seats that one job judges: others wait behind it


@app.task(name="findings.reevaluate", lock="reevaluate")
def reevaluate(edition: int) -> None:
    """Every seat against the edition in force, which is this one unless a later one was published meanwhile."""
    follow()


@app.periodic(cron="* * * * *")
@app.task(name="findings.follow_on", lock="reevaluate")
def follow_on(timestamp: int = 0) -> None:
    """Each minute: an edition whose job was lost before anybody had it."""
    follow()


@app.task(name="findings.reevaluate_seats")
def reevaluate_seats(seats: list[int], by: str = "standard") -> None:
    """Seats whose place in the register changed, and with it what the standard wants of them; or whose readings did."""
    if judge := current_judge():
        for seat in Seat.objects.active().filter(pk__in=seats, survey__latest=True):
            evaluate(seat, judge, by)


@app.periodic(cron="* * * * *")
@app.task(name="findings.judge_unjudged", lock="judge unjudged")
def judge_unjudged(timestamp: int = 0) -> None:
    """Surveys that came the short way; each minute those as well whose job was lost."""
    judge = current_judge()
    waiting = Presence.objects.filter(unjudged_since__isnull=False).order_by("unjudged_since").select_related("seat")
    for presence in waiting[:AT_ONCE]:
        judge_news(presence.seat, judge)
    if waiting.exists():
        judge_soon()


@app.periodic(cron="* * * * *")
@app.task(name="findings.end_waivers", lock="end waivers")
def end_waivers(timestamp: int = 0) -> None:
    """Waivers that came to their date end by themselves."""
    end_those_over()


@app.periodic(cron="* * * * *")
@app.task(name="findings.publish_due", lock="publish due")
def publish_due(timestamp: int = 0) -> None:
    """Drafts that are published at a time."""
    publish_those_due()


@app.periodic(cron="1 0 * * *")
@app.task(name="findings.new_day", lock="reevaluate")
def new_day(timestamp: int = 0) -> None:
    """Releases count from a day and until a day: the house follows the edition anew where it names some."""
    edition = Edition.objects.order_by("-number").first()
    if edition and any(r.since or r.until for r in parse_published(edition.text).releases):
        Edition.objects.update(followed_at=None)  # what any of them said yesterday is nothing to compare with
        follow()


def judge_soon() -> None:
    """Let a worker judge what waits; one job that waits is enough."""
    with contextlib.suppress(AlreadyEnqueued):
        judge_unjudged.configure(queueing_lock="judge unjudged").defer()
