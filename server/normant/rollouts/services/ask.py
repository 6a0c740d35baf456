"""Asking whoever sits at a seat."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_question
from normant.seats.models import Seat
from normant.seats.views_of import latest_survey
from normant_core.orders.kinds import AskClose, Asking, AskRestart

KINDS = ("ask_close", "ask_restart")


@transaction.atomic
def ask_at(seat: Seat, user: User, *, app: str, why: str) -> Order:
    """Ask to close the application; where none is named, to let the machine start again. Raises Problem.

    A question that waits is taken back for the new one: nobody is asked twice at once.
    """
    lock("leg", [seat.name])
    survey = latest_survey(seat)
    installed = {application.id for application in survey.facts.applications or ()} if survey else set[str]()
    if app and app not in installed:
        raise Problem(422, "Not installed", f"{seat.name} has no {app}, as its last survey tells")
    question: Asking = AskClose(app, why) if app else AskRestart(why)
    Order.objects.waiting().filter(seat=seat, kind__in=KINDS).update(withdrawn_at=timezone.now())
    order = issue_question(seat, question)
    record(user.username, order.kind.replace("_", " "), seat.name, app=app, why=why, order=str(order.pk))
    return order
