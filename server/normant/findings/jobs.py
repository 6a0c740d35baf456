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
    for seat in Seat.objects.filter(survey__latest=True):
        evaluate(seat, judge, lambda key: "standard")
