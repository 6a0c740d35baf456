"""The report of a rollout: made when it ends, kept as it is, its digest in the ledger."""

import hashlib
from collections.abc import Iterator
from typing import Any

import msgspec
from django.db import transaction

from normant.ledger.services.record import record
from normant.orders.models import Order
from normant_core.plan.plan import SeatPlan
from normant_core.rollout.report import Receipts, Report, ReportedSeat, canonical, seat_report, sentence

from ..models import Leg, Rollout
from ..models import Report as Kept


@transaction.atomic
def make_report(number: int) -> Kept:
    """The report of a rollout as it stands; one that says what the last one said is not kept again."""
    body = canonical(_report(number))
    digest = hashlib.sha256(body).hexdigest()
    last = Kept.objects.filter(rollout=number).order_by("-pk").first()
    if last and last.digest == digest:
        return last
    made = Kept.objects.create(rollout_id=number, body=body, digest=digest)
    record("server", "report of rollout", f"rollout {number}", report=digest)
    return made


def _report(number: int) -> Report:
    rollout = Rollout.objects.select_related("created_by", "approved_by", "of").get(pk=number)
    seats = tuple(_seats(rollout))
    return Report(
        rollout=rollout.pk,
        title=rollout.title,
        kind=rollout.kind,
        of=rollout.of_id,
        state=rollout.state,
        reason=rollout.reason,
        by=rollout.created_by.username,
        approved_by=rollout.approved_by.username if rollout.approved_by else None,
        begun=rollout.created_at.isoformat(),
        ended=rollout.ended_at.isoformat() if rollout.ended_at else None,
        terms=rollout.terms,
        sentence=sentence(seats),
        seats=seats,
        put_back_by=tuple(_put_backs(rollout)),
        errands=tuple(_errands(rollout)),
    )


def _seats(rollout: Rollout) -> list[ReportedSeat]:
    orders: dict[int, list[Order]] = {}
    for order in Order.objects.filter(leg__rollout=rollout, received_at__isnull=False):
        orders.setdefault(order.leg_id or 0, []).append(order)
    legs = rollout.legs.select_related("seat").order_by("wave", "seat__name")
    return [_seat(leg, orders.get(leg.pk, [])) for leg in legs]


def _seat(leg: Leg, orders: list[Order]) -> ReportedSeat:
    return seat_report(
        msgspec.convert(leg.plan, SeatPlan),
        _results(orders),
        room=leg.seat.room,
        wave=leg.wave,
        state=leg.state,
        message=leg.message,
        begun=leg.begun_at.isoformat() if leg.begun_at else None,
        ended=leg.ended_at.isoformat() if leg.ended_at else None,
        measured=leg.measured,
    )


def _results(orders: list[Order]) -> Receipts:
    """What became of each change; where an order speaks of the whole file, all of its changes share that."""
    results: dict[tuple[str, str | None], tuple[str, dict[str, Any]]] = {}
    for order in orders:
        receipt = order.receipt or {}
        by_setting = {result["setting"]: result for result in receipt.get("results", ())}
        for setting, app in order.settings:
            results[setting, app] = (receipt["outcome"], by_setting.get(setting, {}))
    return results


def _errands(rollout: Rollout) -> Iterator[dict[str, Any]]:
    """What a person had to do, and whether it was done when the report was made."""
    for errand in rollout.errands.select_related("seat", "signed_by").order_by("seat__name", "pk"):
        signed = {"by": errand.signed_by.username, "words": errand.words} if errand.signed_by else None
        yield {"seat": errand.seat.name, "does": errand.work["does"], "state": errand.state, "signed": signed}


def _put_backs(rollout: Rollout) -> list[dict[str, Any]]:
    return [
        {
            "rollout": put_back.pk,
            "state": put_back.state,
            "seats": [leg.seat.name for leg in put_back.legs.select_related("seat")],
        }
        for put_back in rollout.put_backs.order_by("pk")
    ]
