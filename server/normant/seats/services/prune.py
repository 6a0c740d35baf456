"""What is old enough to go: survey bodies first, then intervals that ended long ago."""

import datetime as dt

from django.db import transaction
from django.utils import timezone

from normant.ledger.services.record import record

from ..models import Reading, Survey


@transaction.atomic
def prune(*, surveys: dt.timedelta, readings: dt.timedelta) -> tuple[int, int]:
    """Forget surveys and ended readings older than that; how many of each went.

    The newest survey of a seat and every reading that still holds stay, however old they are.
    """
    now = timezone.now()
    bodies, _ = Survey.objects.filter(latest=False, taken_at__lt=now - surveys).delete()
    intervals, _ = Reading.objects.filter(until__lt=now - readings).delete()
    if bodies or intervals:
        record("server", "prune", "record", surveys=bodies, readings=intervals)
    return bodies, intervals
