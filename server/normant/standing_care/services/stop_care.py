"""Stopping a sentence of standing care, and letting it go on."""

from contextlib import suppress

from django.db import transaction

from normant.accounts.models import User
from normant.clearings.models import Clearing
from normant.clearings.services.halt_clearing import give_up_clearing, halt_clearing
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.standards.current import current_judge

from ..models import StoppedCare, Turn


@transaction.atomic
def stop_care(name: str, user: User, why: str) -> None:
    """It has no turn more; one that is at work halts, one that waits is given up. Raises Problem."""
    _check_in_force(name)
    lock("standing care", [name])
    _, is_new = StoppedCare.objects.get_or_create(name=name, defaults={"stopped_by": user, "why": why})
    if not is_new:
        raise Problem(409, "Stopped already", f"{name} was stopped before")
    record(user.username, "stop standing care", name, why=why)
    for turn in Turn.objects.filter(name=name, clearing__isnull=False).select_related("clearing"):
        if turn.clearing and turn.clearing.state == Clearing.State.RUNNING:
            with suppress(Problem):  # it has ended, or halted, meanwhile
                halt_clearing(turn.clearing, user, why)
        elif turn.clearing and turn.clearing.state in (Clearing.State.LOOKING, Clearing.State.PLANNED):
            give_up_clearing(turn.clearing)
    tell("care", name)


@transaction.atomic
def go_on_with_care(name: str, user: User) -> None:
    """Its next turn comes as its sentence says. Raises Problem where nobody stopped it."""
    _check_in_force(name)
    lock("standing care", [name])
    if not StoppedCare.objects.filter(name=name).delete()[0]:
        raise Problem(409, "Not stopped", f"{name} was not stopped")
    record(user.username, "resume standing care", name)
    tell("care", name)


def _check_in_force(name: str) -> None:
    judge = current_judge()
    if judge is None or name not in {care.text.name for care in judge.standard.care}:
        raise Problem(404, "No such sentence", f"the current standard has no automatic clean-up called {name}")
