"""Handing in a survey: one statement where nothing changed, everything else in one transaction."""

import datetime as dt
import hashlib
from typing import Any

from django.db import connection, transaction
from django.utils import timezone

from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.errands.services.run_errands import prove
from normant.findings.services.evaluate import judge_news
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import explained_by
from normant.rollouts.services.advance import settle
from normant.seats.models import Presence, Seat
from normant.seats.services.take_survey import take_survey
from normant.standards.current import current_judge
from normant_core.seat.survey import Survey, check, parse_survey, shaped

from ..identify import presence_of

AHEAD = dt.timedelta(minutes=10)  # a clock further ahead would block every survey after it is put right

UNCHANGED = """
UPDATE seats_presence SET taken_at = %s, seen_at = now(), idle_seconds = %s
 WHERE token_digest = %s AND survey_digest = %s AND taken_at < %s AND %s <= now() + %s AND offer_id IS NULL
RETURNING (SELECT count(*) FROM rollouts_order o
            WHERE o.seat_id = seats_presence.seat_id AND o.received_at IS NULL AND o.withdrawn_at IS NULL
              AND o.signature IS NOT NULL)
"""


def hand_in(token: str, raw: bytes) -> dict[str, Any]:
    """`{"changed": ..., "orders": n}`, of an agent that is known. Raises Problem, or DocumentError."""
    survey = shaped(raw)
    digest = hashlib.sha256(survey.content()).digest()
    with connection.cursor() as cursor:
        cursor.execute(UNCHANGED, unchanged(survey, token, digest))
        if row := cursor.fetchone():
            return {"changed": False, "orders": row[0]}
    return _changed(token, survey, raw, digest)


def unchanged(survey: Survey, token: str, digest: bytes) -> list[Any]:
    """What UNCHANGED asks."""
    at = survey.taken_at
    return [at, survey.activity.idle_seconds, token, digest, at, at, AHEAD]


@transaction.atomic
def _changed(token: str, survey: Survey, raw: bytes, digest: bytes) -> dict[str, Any]:
    seat = presence_of(token).seat
    if survey.seat != seat.name:
        raise Problem(403, "Not your seat", f"this token belongs to {seat.name}, the survey to {survey.seat}")
    lock("leg", [seat.name])
    presence = Presence.objects.select_for_update().filter(seat=seat, token_digest=token).first()
    if presence is None:
        raise Problem(401, "Unknown agent", "this token has been revoked: enrol this seat again")
    check(survey, raw)
    return _taken(presence, survey, raw, digest)


@transaction.atomic
def bring(raw: bytes, actor: str) -> dict[str, Any]:
    """A survey that somebody carried here from a seat without a network. Raises Problem, or DocumentError."""
    survey = parse_survey(raw)
    seat = row_or_404(
        Seat.objects.active().filter(name=survey.seat),
        "seat",
        f"there is no seat {survey.seat}: add it to the register first",
    )
    lock("leg", [seat.name])
    presence, _ = Presence.objects.select_for_update().get_or_create(seat=seat)
    changed = _taken(presence, survey, raw, hashlib.sha256(survey.content()).digest())
    record(actor, "bring survey", seat.name, taken_at=survey.taken_at.isoformat(), changed=changed["changed"])
    return {"seat": seat.name, "taken_at": survey.taken_at, "changed": changed["changed"]}


def _taken(presence: Presence, survey: Survey, raw: bytes, digest: bytes) -> dict[str, Any]:
    seat = presence.seat
    now = timezone.now()
    if survey.taken_at > now + AHEAD:
        message = (
            f"the survey was taken at {survey.taken_at:%H:%M:%S}, here it is {now:%H:%M:%S} UTC: set the seat's clock"
        )
        raise Problem(422, "Clock ahead", message)
    orders = list(Order.objects.filter(seat=seat, withdrawn_at=None).order_by("-created_at")[:50])
    if presence.taken_at and survey.taken_at <= presence.taken_at <= now + AHEAD:
        return {"changed": False, "orders": _waiting(orders)}  # a replay, or one that was overtaken
    ours = {key for order in orders if _explains(order, presence.taken_at) for key in explained_by(order)}
    take_survey(seat, survey, raw, digest, ours=ours)
    judge_news(seat, current_judge())
    settle(seat, survey.taken_at)
    prove([seat])
    return {"changed": True, "orders": _waiting(orders)}


def _waiting(orders: list[Order]) -> int:
    return sum(order.receipt is None for order in orders)


def _explains(order: Order, last_survey: dt.datetime | None) -> bool:
    """Whether an order may be why a reading is another one than in the last survey."""
    if order.receipt is None:
        return True
    done = order.receipt["outcome"] in ("done", "accepted_as")
    return done and (last_survey is None or dt.datetime.fromisoformat(order.receipt["at"]) > last_survey)
