"""Proposing a delivery: what a seat or a person says is finished waits until somebody signs it."""

import datetime as dt
from dataclasses import dataclass

from django.db import transaction

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat

from ..models import Delivery

MOST_WAITING = 2000  # that wait for somebody, in a house; and
MOST_OF_SEAT = 200  # of one seat: nobody signs more, and a seat that makes them up fills no list


@dataclass(frozen=True, slots=True)
class Export:
    """A finished file of a project: SHA-256, bytes, and when it was finished.

    `app` is the application that exported it, `project_app` the one whose project it is.
    """

    project: str
    file: str
    digest: str
    size: int
    finished_at: dt.datetime
    production: str = ""
    app: str = ""
    project_app: str = ""


@transaction.atomic
def propose_delivery(export: Export, actor: str, seat: Seat | None = None) -> Delivery:
    """Have it wait for a signature; the same file of the same project once more is the one that is there.

    Raises Problem where too many wait.
    """
    lock("delivery")
    same = Delivery.objects.standing().filter(
        production=export.production, project=export.project, project_app=export.project_app, digest=export.digest
    )
    there: Delivery | None = same.first()
    if there:
        return there
    waiting = Delivery.objects.to_sign()
    if waiting.count() >= MOST_WAITING or (seat and waiting.filter(seat=seat).count() >= MOST_OF_SEAT):
        raise Problem(409, "Too many deliveries wait", "sign or withdraw some of the proposed deliveries first")
    delivery: Delivery = Delivery.objects.create(
        project=export.project,
        production=export.production,
        file=export.file,
        seat=seat,
        app=export.app,
        project_app=export.project_app,
        digest=export.digest,
        size=export.size,
        finished_at=export.finished_at,
        proposed_by=actor,
    )
    detail = {"file": export.file, "size": export.size, "sha256": export.digest}
    record(actor, "propose delivery", export.project, seat=seat.name if seat else "", **detail)
    tell("delivery", str(delivery.pk))
    return delivery
