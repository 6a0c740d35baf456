"""How the server itself is: whether a worker is heard, and what stands still where none is."""

import datetime as dt
from typing import Any

from django.db import connection
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.schemas import Moment
from normant.orders.models import Order
from normant.proposals.models import Proposal
from normant.rollouts.models import Rollout
from normant.seats.models import Presence

router = Router(tags=["house"])
SILENT = dt.timedelta(seconds=60)  # a worker beats every ten, and does something each minute


class StateOut(Schema):
    """`worker_heard_at` is null where none ever ran; `stands_still` says what waits for one, in sentences' ends."""

    worker_silent: bool
    worker_heard_at: Moment | None
    stands_still: list[str]
    proposals: int


@router.get("/house/state", response=StateOut, operation_id="house_state", auth=Needs(Permission.SEE_SEATS))
def state(request: HttpRequest) -> Any:
    """Whether the server's own parts are heard."""
    heard = worker_heard_at()
    silent = heard is None or timezone.now() - heard > SILENT
    return plain(
        {
            "worker_silent": silent,
            "worker_heard_at": heard,
            "stands_still": stands_still() if silent else [],
            "proposals": Proposal.objects.filter(decided_at=None).count(),
        }
    )


def worker_heard_at() -> dt.datetime | None:
    """When a worker was last heard: its beat, or, where it ended in order, what it did last."""
    with connection.cursor() as cursor:
        cursor.execute(
            """
            SELECT greatest((SELECT max(last_heartbeat) FROM procrastinate_workers),
                            (SELECT at FROM procrastinate_events WHERE type IN ('started', 'succeeded', 'failed')
                              ORDER BY id DESC LIMIT 1))
            """
        )
        heard: dt.datetime | None = cursor.fetchone()[0]
    return heard


def stands_still() -> list[str]:
    """What no seat and nobody gets until one runs again."""
    unjudged = Presence.objects.filter(unjudged_since__isnull=False).count()
    running = Rollout.objects.filter(state=Rollout.State.RUNNING).count()
    unsigned = Order.objects.unsigned().count()
    counted = (
        (unjudged, "seat whose survey is not judged", "seats whose surveys are not judged"),
        (running, "rollout that does not go on", "rollouts that do not go on"),
        (unsigned, "order that is not signed", "orders that are not signed"),
    )
    waiting = [f"{count} {single if count == 1 else several}" for count, single, several in counted if count]
    return [*waiting, "notices, waivers' ends and drafts that wait for their hour"]
