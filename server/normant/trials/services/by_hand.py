"""Runs by hand: one person at a time takes a run of a seat, has its condition set, notes what they saw, goes on.

A condition is held by the agent, which puts it back by itself when its time is over; so whatever is lost here, or
between here and the seat, costs a run and nothing else.
"""

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant.orders.services.issue import issue_order
from normant.seats.views_of import latest_survey
from normant_core.base.errors import NormantError
from normant_core.measure.conditions import at_once, changes_for
from normant_core.measure.design import DesignError
from normant_core.measure.question import noted, sets_of
from normant_core.orders.kinds import HoldCondition

from ..models import Run, Trial, TrialSeat
from .advance_trial import RUNS, advance_trial_soon, begin_seat, in_the_way
from .held import MINUTES, end_hold, standing


@dataclass(frozen=True, slots=True)
class Take:
    """What somebody saw once: of a run the how-manieth (from 0), how many seconds, how many frames were dropped."""

    number: int
    seconds: float
    dropped: int = 0


def due_run(seat: TrialSeat) -> Run | None:
    """The run that is to be made next; None where it waits for other seats, or all are made."""
    return seat.runs.filter(figure=None).order_by("block", "place").first()


@transaction.atomic
def take_run(seat: TrialSeat, number: int, user: User) -> None:
    """Have the condition of a run set, for this person. Raises Problem where another makes it, or it is not due."""
    run = _due(seat, number)
    state = standing(run).state
    if state != "free":
        if run.taken_by != user.username:
            raise Problem(409, "Taken", f"{run.taken_by} is doing this run")
        return  # asked twice
    if why := in_the_way(run.of):
        raise Problem(409, "Not now", why)
    survey = latest_survey(run.of.seat)
    question = run.of.trial.core_question
    try:
        if survey is None:
            raise NormantError("the seat has sent no survey")
        under = at_once(changes_for(sets_of(question, run.condition), survey, dialects()))
    except NormantError as fault:
        raise Problem(409, "Not on this seat", str(fault)) from fault
    begin_seat(run.of)
    run.taken_by, run.takes = user.username, []
    run.save(update_fields=["taken_by", "takes"])
    hand = question.by_hand
    rate = hand.rate if hand and hand.app and question.job == "play" else 0
    issue_order(run.of.seat, HoldCondition(under, hand.app if hand else "", rate, MINUTES), run=run)
    _say(run.of, "")


@transaction.atomic
def note_run(seat: TrialSeat, number: int, user: User, take: Take) -> None:
    """What somebody saw of one take (from 0). The first does not count; after the last everything is put back.

    Raises Problem for a take that was noted already, or that cannot be.
    """
    run = _taken_by(seat, number, user)
    if take.number != len(run.takes):
        raise Problem(
            409, "Noted already", f"take {take.number + 1} is already saved: this is take {len(run.takes) + 1}"
        )
    try:
        run.takes = [*run.takes, noted(run.of.trial.core_question, take.seconds, take.dropped)]
    except DesignError as why:
        raise Problem(422, "No run", str(why)) from why
    run.save(update_fields=["takes"])
    tell("trial", str(run.of.trial_id))
    if len(run.takes) == RUNS:
        end_hold(run)


@transaction.atomic
def end_run(seat: TrialSeat, number: int, user: User) -> None:
    """No take more: what the agent saw counts, where nobody noted anything. Raises Problem."""
    end_hold(_taken_by(seat, number, user))


@transaction.atomic
def leave_run(seat: TrialSeat, number: int, user: User) -> None:
    """Whoever took it goes: it is put back, and waits for somebody else. Raises Problem."""
    run = _due(seat, number)
    if run.taken_by != user.username and standing(run).state != "free":
        raise Problem(409, "Taken", f"{run.taken_by} makes this run")
    give_up(run)
    record(user.username, "leave run", f"trial {run.of.trial_id}", seat=run.of.seat.name, run=run.pk)


def give_up(run: Run) -> None:
    """What is set is put back, and nothing that was noted counts. Who calls holds the seat's lock."""
    run.orders.filter(kind="hold_condition", received_at=None).update(withdrawn_at=timezone.now())
    if standing(run).state == "set":
        end_hold(run)
    run.taken_by, run.takes = "", []
    run.save(update_fields=["taken_by", "takes"])
    tell("orders", run.of.seat.name)
    tell("trial", str(run.of.trial_id))


def _due(seat: TrialSeat, number: int) -> Run:
    """The run, locked with its seat. Raises Problem where it is not the one that is due."""
    lock("leg", [seat.seat.name])
    fresh = TrialSeat.objects.select_related("seat", "trial").get(pk=seat.pk)
    if fresh.ended_at or fresh.trial.state != Trial.State.RUNNING:
        raise Problem(409, "Over", "this trial has ended on this seat")
    run = due_run(fresh)
    if run is None or run.pk != number:
        raise Problem(409, "Not due", "this is not the next run: reload")
    run.of = fresh
    return run


def _taken_by(seat: TrialSeat, number: int, user: User) -> Run:
    run = _due(seat, number)
    if run.taken_by != user.username:
        raise Problem(409, "Taken", f"{run.taken_by or 'another person'} is doing this run")
    if standing(run).state != "set":
        raise Problem(409, "Not set", "the condition is not set: set it again")
    return run


def _say(seat: TrialSeat, message: str) -> None:
    if seat.message != message:
        seat.message = message[:500]
        seat.save(update_fields=["message"])
    advance_trial_soon(seat.trial_id)
    tell("trial", str(seat.trial_id))
