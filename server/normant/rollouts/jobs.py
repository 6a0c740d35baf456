"""Jobs that move rollouts."""

from django.db.models import Q
from procrastinate.contrib.django import app

from normant.orders.services.sign import sign_waiting
from normant.orders.sweeps import each_by_itself, forget_faults

from .models import Leg, Rollout
from .services.advance import advance
from .services.halt import halt_if_harmful


@app.task(name="rollouts.advance")
def advance_rollout(rollout: int) -> None:
    """Begin the legs that may begin, unless the last ones did harm."""
    _go_on(rollout)


@app.periodic(cron="* * * * *")
@app.task(name="rollouts.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute, and when a worker starts: go on with every rollout whose job was lost with its worker."""
    sign_waiting()
    waiting = Rollout.objects.filter(
        Q(legs__begun_at=None, legs__state=Leg.State.WAITING), state=Rollout.State.RUNNING
    ).distinct()
    to_begin = list(waiting.values_list("pk", flat=True))
    each_by_itself("rollout", to_begin, _go_on)
    # In earlier versions two last legs that ended at the same instant left it running.
    over = Rollout.objects.filter(state=Rollout.State.RUNNING).exclude(legs__ended_at=None)
    to_end = list(over.values_list("pk", flat=True))
    each_by_itself("rollout", to_end, advance)
    forget_faults("rollout", [*to_begin, *to_end])


def _go_on(rollout: int) -> None:
    if not halt_if_harmful(rollout):
        advance(rollout)
