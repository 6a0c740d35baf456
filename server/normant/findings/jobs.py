"""Jobs that judge seats anew."""

from procrastinate.contrib.django import app

from normant.seats.models import Seat
from normant.standards.current import current_judge

from .services.evaluate import evaluate


@app.task(name="findings.reevaluate", lock="reevaluate")
def reevaluate(edition: int) -> None:
    """Every seat against the edition in force; run twice it does no harm."""
    judge = current_judge()
    if judge is None:
        return
    for seat in Seat.objects.active().filter(survey__latest=True):
        evaluate(seat, judge, lambda key: "standard")


@app.task(name="findings.reevaluate_seats")
def reevaluate_seats(seats: list[int]) -> None:
    """Seats whose place in the register changed, and with it what the standard wants of them."""
    if judge := current_judge():
        for seat in Seat.objects.active().filter(pk__in=seats, survey__latest=True):
            evaluate(seat, judge, lambda key: "standard")
