"""Jobs that move plans of clearing."""

from procrastinate.contrib.django import app

from .models import Clearing
from .services.advance_clearing import advance_clearing
from .services.keep_list import forget_lists


@app.task(name="clearings.advance")
def advance(clearing: int) -> None:
    """Let further seats clear, or end what is over."""
    advance_clearing(clearing)


@app.periodic(cron="* * * * *")
@app.task(name="clearings.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute: go on with every plan whose job was lost with its worker, whose hour has come, or that waits."""
    going = (Clearing.State.LOOKING, Clearing.State.RUNNING)
    for clearing in Clearing.objects.filter(state__in=going).values_list("pk", flat=True):
        advance_clearing(clearing)


@app.periodic(cron="35 * * * *")
@app.task(name="clearings.forget_lists")
def forget(timestamp: int = 0) -> None:
    """Each hour: lists that somebody read a day ago."""
    forget_lists()
