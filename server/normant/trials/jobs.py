"""Jobs that move trials."""

from procrastinate.contrib.django import app

from normant.orders.sweeps import each_by_itself, forget_faults

from .models import Trial
from .services.advance_trial import advance_trial


@app.task(name="trials.advance")
def advance(trial: int) -> None:
    """Order the next runs, or end what is over."""
    advance_trial(trial)


@app.periodic(cron="* * * * *")
@app.task(name="trials.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute: go on with every trial whose job was lost with its worker, or whose hour has come."""
    running = list(Trial.objects.filter(state=Trial.State.RUNNING).values_list("pk", flat=True))
    each_by_itself("trial", running, advance_trial)
    forget_faults("trial", running)
