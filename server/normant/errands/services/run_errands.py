"""What becomes of an errand: signed off by a person, proved by a survey, dropped."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.local_time import full_words
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.ledger.services.record import record
from normant.orders.services.issue import issue_survey_now
from normant.seats.models import Seat

from ..models import Errand


@transaction.atomic
def sign_off(number: int, user: User, words: str = "") -> Errand:
    """Somebody did it. Where a survey can prove it, the seat is asked for one at once. Raises Problem."""
    errand = _open(number)
    errand.signed_by, errand.signed_at, errand.words = user, timezone.now(), words
    errand.state, errand.message = "signed", ""
    if errand.work["proof"] == "survey" and errand.finding_id:
        errand.save()
        issue_survey_now(errand.seat)
    else:
        _end(errand, "done")
    record(user.username, "sign off errand", errand.seat.name, errand=errand.pk, words=words)
    tell("errand", str(errand.pk))
    prove([errand.seat])
    errand.refresh_from_db()
    return errand


@transaction.atomic
def drop(number: int, user: User, why: str) -> Errand:
    """It need not be done any more. Raises Problem."""
    errand = _open(number)
    _end(errand, "dropped", f"Dropped by {user.username}: {why}")
    record(user.username, "drop errand", errand.seat.name, errand=errand.pk, why=why)
    return errand


def release_held(rollout: int) -> None:
    """The rollout was approved: its errands are for somebody to do."""
    Errand.objects.filter(rollout=rollout, state=Errand.State.HELD).update(state=Errand.State.OPEN)
    tell("errand", "")


def drop_held(rollout: int) -> None:
    """The rollout was withdrawn before anybody approved it."""
    fields = {"state": "dropped", "message": "Rollout withdrawn", "ended_at": timezone.now()}
    Errand.objects.filter(rollout=rollout, state=Errand.State.HELD).update(**fields)


@transaction.atomic
def prove(seats: list[Seat] | None = None) -> None:
    """End the errands (of these seats, or all) whose finding is settled; tell of those that a survey contradicts."""
    waiting = Errand.objects.filter(ended_at=None).select_for_update(of=("self",), skip_locked=True)
    if seats is not None:
        waiting = waiting.filter(seat__in=seats)
    errands = waiting.select_related("seat__presence", "finding", "signed_by").order_by("pk")
    for errand in errands:
        if errand.seat.retired_at:
            _end(errand, "dropped", "Seat retired")
        elif errand.finding and errand.finding.closed_at:
            by = f"Signed off by {errand.signed_by.username}, and " if errand.signed_by else "Not signed off; "
            _end(errand, "done", f"{by}the survey confirms it")
        elif errand.state == Errand.State.SIGNED and _contradicted(errand):
            at = full_words(errand.seat.presence.taken_at)
            errand.state = Errand.State.OPEN
            errand.message = (
                f"Signed off by {errand.signed_by.username}, but the survey of {at} still shows the old value"
            )
            errand.save(update_fields=["state", "message"])
            tell("errand", str(errand.pk))


def _contradicted(errand: Errand) -> bool:
    """Whether a survey that was taken after the signature, and judged, still finds it off norm."""
    presence = getattr(errand.seat, "presence", None)
    if presence is None or presence.taken_at is None or presence.unjudged_since:
        return False
    return errand.signed_at is not None and presence.taken_at > errand.signed_at


def _open(number: int) -> Errand:
    locked = Errand.objects.select_for_update(of=("self",)).select_related("seat")
    errand: Errand = row_or_404(locked.filter(pk=number), "errand", f"there is no errand {number}")
    if errand.state not in (Errand.State.OPEN, Errand.State.SIGNED):
        raise Problem(409, "Not to be done", f"errand {number} is {errand.state}")
    return errand


def _end(errand: Errand, state: str, message: str = "") -> None:
    errand.state, errand.message, errand.ended_at = state, message, timezone.now()
    errand.save()
    record("server", f"errand {state}", errand.seat.name, errand=errand.pk, message=message)
    tell("errand", str(errand.pk))
