"""Publishing an edition, and what it would do before anybody does."""

import logging

from django.db import transaction
from django.db.models import Max

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant.seats.views_of import latest_views
from normant.standards.models import Edition
from normant_core.house.impact import Impact, impact
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge
from normant_core.standard.parse import parse_standard
from normant_core.standard.rule import Standard

from ..later import follow_later
from ..resident import resident

log = logging.getLogger(__name__)
CLASSES = 30  # of hardware, of which a seat is judged before an edition is published


def try_edition(text: str) -> tuple[Standard, Impact]:
    """The parsed text, and what publishing it would open and close. Raises DocumentError."""
    standard = parse_standard(text)
    with resident.standing() as before, resident.house() as house:
        return standard, impact(before, Standing(house, Judge(standard), before))


@transaction.atomic
def publish(text: str, *, base: int, note: str, user: User | None) -> Edition:
    """The new edition; a job judges every seat anew. Raises DocumentError, or Problem where `base` is not current, or
    where it cannot be judged by."""
    prove(parse_standard(text))
    lock("publish")
    newest = Edition.objects.aggregate(newest=Max("number"))["newest"] or 0
    if base != newest:
        message = (
            f"edition {newest} was published by somebody else; yours is based on edition {base}: review and try again"
        )
        raise Problem(409, "Somebody was faster", message)
    edition = Edition.objects.create(number=newest + 1, text=text, note=note, published_by=user)
    record(user.username if user else "server", "publish edition", f"edition {edition.number}", note=note)
    follow_later(edition.pk)
    tell("standard", str(edition.number))
    return edition


def prove(standard: Standard) -> None:
    """Compile a standard and judge a seat of each hardware class by it. Raises Problem where either does not work: what
    is published, every seat is judged by."""
    judge = Judge(standard)
    if broken := judge.not_compiled:
        raise Problem(422, "Not fit to judge by", f"the rules of {', '.join(broken)} are too complex: split them")
    heard = Seat.objects.active().filter(survey__latest=True).order_by("hardware_class", "name")
    for seat, view in latest_views(heard.distinct("hardware_class")[:CLASSES]):
        try:
            judge.verdicts(view)
        except Exception as fault:
            log.exception("an edition was refused", extra={"seat": seat.name})
            message = f"judging {seat.name} by it fails ({type(fault).__name__}); nothing was published"
            raise Problem(422, "Not fit to judge by", message) from fault
