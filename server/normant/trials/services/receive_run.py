"""What agents tell of the runs of a trial. Who calls these holds the seat's lock."""

import msgspec
from django.utils import timezone

from normant.common.events import tell
from normant.orders.models import Order
from normant_core.orders.kinds import Progress, Receipt
from normant_core.orders.samples import PAGE_INS, Samples, mean_of

from ..models import Run, TrialSeat
from .advance_trial import advance_trial_soon, end_seat

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
    seat = run.of
    if order.withdrawn_at or seat.ended_at:
        _say_put_back(seat, receipt)
    elif receipt.outcome != "done" or not receipt.measured:
        end_seat(seat, TrialSeat.State.STOPPED, receipt.message or f"the run came to nothing: {receipt.outcome}")
    elif run.figure is None:
        *run.thrown, run.figure = receipt.measured
        last = receipt.samples[-1] if receipt.samples else None
        run.samples = msgspec.to_builtins(last) if last else None
        run.harmful, run.ended_at = bool(last and _harms(last)), timezone.now()
        run.save()
        seat.message = receipt.message[:500]
        seat.save(update_fields=["message"])
    advance_trial_soon(seat.trial_id)
    tell("trial", str(seat.trial_id))


def _say_put_back(seat: TrialSeat, receipt: Receipt) -> None:
    seat.message = f"{seat.message}; {receipt.message or 'put back, byte for byte'}".removeprefix("; ")[:500]
    seat.save(update_fields=["message"])


def _harms(samples: Samples) -> bool:
    """Whether the machine fetched memory back from the disk, as it does not at rest."""
    return (mean_of(samples, PAGE_INS) or 0) > samples.rest.get(PAGE_INS, 0) + PAGES
