"""Moving trials on. Each function may run twice, or after a crash, without harm."""

from collections.abc import Sequence

import msgspec
from django.db import transaction
from django.utils import timezone

from normant.bookings.rooms import booked_rooms, why_booked
from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.locks import lock
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.views_of import latest_survey, latest_surveys, register_of
from normant_core.base.errors import NormantError
from normant_core.measure.conditions import changes_for
from normant_core.measure.holding import holds_for
from normant_core.measure.question import Question, sets_of
from normant_core.measure.trial import TrialRun, TrialState, next_block, stand
from normant_core.orders.kinds import Measure

from ..models import Run, Trial, TrialSeat
from .held import end_hold, standing

OCCUPIED = "waiting for a rollout or another trial on this seat"
CLEANING = "waiting for a clean-up on this seat"
MEETS = "waiting for the other seats at this interim analysis"
BY_HAND = "waiting for a person at the seat to do a run"
RUNS = 2  # of each condition: the first after a change is thrown away


def advance_trial_soon(trial: int) -> None:
    """Let a worker move the trial on, once this transaction is committed; one job that waits is enough."""
    after_commit("trials.advance", once=f"trial {trial}", trial=trial)


@transaction.atomic
def advance_trial(number: int) -> None:
    """Order the next run on every seat that may make one, or end what is over."""
    going = TrialSeat.objects.filter(trial=number, ended_at=None)
    lock("leg", going.values_list("seat__name", flat=True))
    trial = Trial.objects.select_for_update(no_key=True).filter(pk=number, state=Trial.State.RUNNING).first()
    if trial is None or (trial.begins and trial.begins > timezone.now()):
        return
    seats = list(going.select_related("seat"))
    question, runs = trial.core_question, runs_of(trial)
    names = {seat.seat.name for seat in seats}
    state = stand(question, runs, names or {run.seat for run in runs})
    if state.over:
        for seat in seats:
            end_seat(seat, TrialSeat.State.DONE)
    else:
        for seat in seats:
            _go_on(seat, question, runs, names)
    keep_shown(trial, state)
    end_if_over(trial)


def runs_of(trial: Trial) -> list[TrialRun]:
    """Every run that counts, in the order in which they were made on each seat."""
    counted = Run.objects.that_count().filter(of__trial=trial).select_related("of__seat")
    return [run.core_run(run.of.seat.name) for run in counted.order_by("of__seat__name", "block", "place")]


def keep_shown(trial: Trial, state: TrialState) -> None:
    """What its runs show is kept with it, and told where that is news."""
    shown = msgspec.json.decode(msgspec.json.encode(state))  # what nothing bounds is null: JSON knows no infinity
    if trial.shown != shown:
        trial.shown = shown
        trial.save(update_fields=["shown"])
    tell("trial", str(trial.pk))


def _go_on(seat: TrialSeat, question: Question, runs: Sequence[TrialRun], names: set[str]) -> None:
    if Order.objects.waiting().filter(run__of=seat).exists():
        return
    if why := in_the_way(seat):
        _say(seat, why)
        return
    run = seat.runs.filter(figure=None).first() or _next_run(seat, question, runs, names)
    if run is None:
        _say(seat, MEETS)
    elif question.by_hand is None:
        _order(seat, question, run)
    elif not run.taken_by:
        _say(seat, BY_HAND)


def in_the_way(seat: TrialSeat) -> str:
    """Why it may not be touched at this moment; empty where it may."""
    if seat.begun_at is None:
        others = TrialSeat.objects.at_work().filter(seat=seat.seat).exclude(pk=seat.pk)
        if others.exists() or seat.seat.legs.filter(begun_at__isnull=False, ended_at=None).exists():
            return OCCUPIED
        if Order.objects.cleaning_up().filter(seat=seat.seat).exists():
            return CLEANING
    now = timezone.now()
    return why_booked(seat.seat.room, booked_rooms([seat.seat.room], now), now)


def _next_run(seat: TrialSeat, question: Question, runs: Sequence[TrialRun], names: set[str]) -> Run | None:
    """The first run of a block that is laid out now; None where none is to be made yet."""
    block = next_block(question, runs, seat.seat.name, names)
    number = 1 + max((run.block for run in runs if run.seat == seat.seat.name), default=0)
    made = [Run(of=seat, block=number, place=place, condition=name) for place, name in enumerate(block)]
    return next(iter(Run.objects.bulk_create(made)), None)


def _order(seat: TrialSeat, question: Question, run: Run) -> None:
    survey = latest_survey(seat.seat)
    try:
        if survey is None:
            raise NormantError("the seat has sent no survey")
        under = changes_for(sets_of(question, run.condition), survey, dialects())
    except NormantError as why:
        end_seat(seat, TrialSeat.State.STOPPED, str(why))
        return
    clip = seat.trial.clip
    device = next((c.device for c in question.conditions if c.name == run.condition), "")
    action = Measure(
        question.job,
        RUNS,
        under,
        clip.digest if clip else "",
        clip.size if clip else 0,
        device,
        seat.trial.volume,
        question.beside,
    )
    begin_seat(seat)
    issue_order(seat.seat, action, run=run)
    _say(seat, "")


def begin_seat(seat: TrialSeat) -> None:
    """From now on the seat is the trial's alone."""
    if seat.begun_at is None:
        seat.begun_at, seat.state = timezone.now(), TrialSeat.State.AT_WORK
        seat.save(update_fields=["begun_at", "state"])
        tell("planned", seat.seat.name)


def _say(seat: TrialSeat, message: str) -> None:
    if seat.message != message:
        seat.message = message[:500]
        seat.save(update_fields=["message"])


def end_seat(seat: TrialSeat, state: str, message: str = "") -> None:
    """A trial is over on a seat; what of it waits there is withdrawn."""
    Order.objects.waiting().filter(run__of=seat).exclude(kind="end_hold").update(withdrawn_at=timezone.now())
    for run in seat.runs.filter(figure=None).exclude(taken_by=""):
        if standing(run).state == "set":
            end_hold(run)
    tell("orders", seat.seat.name)
    seat.state, seat.message, seat.ended_at = state, message[:500], timezone.now()
    seat.save()
    tell("planned", seat.seat.name)


def end_if_over(trial: Trial) -> None:
    """A trial ends with its last seat; who holds its row, and the locks of its seats, may ask."""
    if trial.ended_at or TrialSeat.objects.filter(trial=trial, ended_at=None).exists():
        return
    measured = list(trial.seats.select_related("seat"))
    question = trial.core_question
    surveys = latest_surveys(row.seat.pk for row in measured)
    rows = [(register_of(row.seat), surveys[row.seat.pk].facts) for row in measured if row.seat.pk in surveys]
    apps = {wanted.app for condition in question.conditions for wanted in condition.sets if wanted.app}
    trial.state, trial.ended_at = Trial.State.ENDED, timezone.now()
    trial.holds_for = msgspec.to_builtins(holds_for(rows, apps))
    trial.save(update_fields=["state", "ended_at", "holds_for"])
    keep_shown(trial, stand(question, runs_of(trial), [row.seat.name for row in measured if row.state == "done"]))
    record("server", "end trial", f"trial {trial.pk}", seats=[row.seat.name for row in measured], shown=trial.shown)
