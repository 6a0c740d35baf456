"""What agents tell of the runs of a trial. Who calls these holds the seat's lock."""

from collections.abc import Sequence

import msgspec
from django.utils import timezone

from normant.common.events import tell
from normant.orders.models import Order
from normant_core.base.wording import counted
from normant_core.orders.kinds import Progress, Receipt
from normant_core.orders.samples import PAGE_INS, Samples, mean_of

from ..machine.proof import idle_in
from ..models import Run, TrialSeat
from .advance_trial import RUNS, advance_trial_soon, end_seat
from .held import end_order

STEPS = {"checking": "measuring", "saving": "setting", "applying": "setting", "reading_back": "setting"}
PAGES = 100  # fetched back in a second, above what is usual at rest: more is harm


def run_moved(order: Order, progress: Progress) -> None:
    """Where a run stands: it waits for somebody, sets something, or measures."""
    run = Run.objects.select_related("of__seat").get(pk=order.run_id)
    message = progress.message or STEPS.get(progress.step, progress.step)
    if run.figure is None and run.of.ended_at is None and run.of.message != message:
        run.of.message = message[:500]
        run.of.save(update_fields=["message"])
        tell("trial", str(run.of.trial_id))


def run_ended(order: Order, receipt: Receipt) -> None:
    """A run came to a figure, or a seat to its end. What comes too late only says that all was put back."""
    run = Run.objects.select_related("of__seat", "of__trial").get(pk=order.run_id)
    match order.kind:
        case "hold_condition":
            _condition_set(order, run, receipt)
        case "end_hold":
            _made_by_hand(order, run, receipt)
        case _:
            _made(order, run, receipt)
    advance_trial_soon(run.of.trial_id)
    tell("trial", str(run.of.trial_id))


def _made(order: Order, run: Run, receipt: Receipt) -> None:
    seat = run.of
    if order.withdrawn_at or seat.ended_at:
        _say_put_back(seat, receipt)
    elif why := _lacks_beside(run, receipt):
        end_seat(seat, TrialSeat.State.STOPPED, why)
    elif receipt.outcome != "done" or not receipt.measured:
        end_seat(seat, TrialSeat.State.STOPPED, receipt.message or f"run failed: {receipt.outcome}")
    elif run.figure is None:
        _keep(run, receipt.measured, receipt)


def _lacks_beside(run: Run, receipt: Receipt) -> str:
    """Why a run says nothing of the job that is to be watched beside it; empty where it does, or none is."""
    if receipt.outcome != "done" or receipt.beside or run.of.trial.core_question.beside is None:
        return ""
    return "the agent has not measured the job that is to be watched beside it"


def _keep(run: Run, figures: Sequence[float], receipt: Receipt) -> None:
    """The last figure counts."""
    *run.thrown, run.figure = figures
    last = receipt.samples[-1] if receipt.samples else None
    run.beside = receipt.beside[-1] if receipt.beside else None
    run.samples = msgspec.to_builtins(last) if last else None
    run.harmful, run.ended_at = bool(last and _harms(last)), timezone.now()
    run.idle = idle_in(run)
    run.save()
    run.of.message = receipt.message[:500]
    run.of.save(update_fields=["message"])


def _condition_set(order: Order, run: Run, receipt: Receipt) -> None:
    """Somebody may go on; or it cannot be set on this seat. What was taken back meanwhile is put back."""
    if order.withdrawn_at or run.of.ended_at:
        if receipt.outcome == "done":
            end_order(run, order)
    elif receipt.outcome in ("accepted_as", "failed"):
        end_seat(run.of, TrialSeat.State.STOPPED, receipt.message)
    elif receipt.outcome != "done":
        _free(run, receipt.message or f"the condition was not set: {receipt.outcome}")


def _made_by_hand(order: Order, run: Run, receipt: Receipt) -> None:
    """What people noted counts before what the agent saw; one take more than counts is to be thrown away.

    Whoever left it may have been followed by another by now: then this is not of their run.
    """
    if run.of.ended_at:
        _say_put_back(run.of, receipt)
        return
    if run.orders.filter(kind="hold_condition", created_at__gt=order.created_at).exists():
        return
    figures = run.takes or list(receipt.measured)
    if receipt.outcome == "done" and run.taken_by and len(figures) >= RUNS and run.figure is None:
        _keep(run, figures, receipt)
    elif run.figure is None:
        seen = counted(len(figures), "run")
        why = f"{seen} of {RUNS} done (the first does not count)" if receipt.outcome == "done" else ""
        _free(run, why or receipt.message)


def _free(run: Run, message: str) -> None:
    """Nobody makes it any more: it waits for somebody."""
    run.taken_by, run.takes = "", []
    run.save(update_fields=["taken_by", "takes"])
    run.of.message = message[:500]
    run.of.save(update_fields=["message"])


def _say_put_back(seat: TrialSeat, receipt: Receipt) -> None:
    seat.message = f"{seat.message}; {receipt.message or 'put back, byte for byte'}".removeprefix("; ")[:500]
    seat.save(update_fields=["message"])


def _harms(samples: Samples) -> bool:
    """Whether the machine fetched memory back from the disk, as it does not at rest."""
    return (mean_of(samples, PAGE_INS) or 0) > samples.rest.get(PAGE_INS, 0) + PAGES
