"""Jobs that move plans of clearing."""

from procrastinate.contrib.django import app

from normant.orders.sweeps import each_by_itself, forget_faults

from .models import Clearing, FileList
from .services.advance_clearing import advance_clearing
from .services.keep_list import forget_lists
from .services.put_back_lost import put_back_lost
from .services.read_list import read_list


@app.task(name="clearings.advance")
def advance(clearing: int) -> None:
    """Let further seats clear, or end what is over."""
    advance_clearing(clearing)


@app.periodic(cron="* * * * *")
@app.task(name="clearings.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute: go on with every plan whose job was lost with its worker, whose hour has come, or that waits."""
    going = (Clearing.State.LOOKING, Clearing.State.RUNNING)
    open_plans = list(Clearing.objects.filter(state__in=going).values_list("pk", flat=True))
    each_by_itself("clearing", open_plans, advance_clearing)
    forget_faults("clearing", open_plans)
    put_back_lost()
    for file_list in FileList.objects.filter(state=FileList.State.READING).values_list("pk", flat=True):
        read_list(file_list)


@app.task(name="clearings.read_list")
def read(file_list: int) -> None:
    """Read a list that has arrived."""
    read_list(file_list)


@app.periodic(cron="35 * * * *")
@app.task(name="clearings.forget_lists")
def forget(timestamp: int = 0) -> None:
    """Each hour: lists that somebody read a day ago."""
    forget_lists()
