"""Jobs that move rollouts."""

from django.db.models import Q
from procrastinate.contrib.django import app

from normant.orders.services.sign import sign_waiting

from .models import Leg, Rollout
from .services.advance import advance
from .services.halt import halt_if_harmful


@app.task(name="rollouts.advance")
def advance_rollout(rollout: int) -> None:
    """Begin the legs that may begin, unless the last ones did harm."""
    if not halt_if_harmful(rollout):
        advance(rollout)


@app.periodic(cron="* * * * *")
@app.task(name="rollouts.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute, and when a worker starts: go on with every rollout whose job was lost with its worker."""
    sign_waiting()
    waiting = Rollout.objects.filter(
        Q(legs__begun_at=None, legs__state=Leg.State.WAITING), state=Rollout.State.RUNNING
    ).distinct()
    for rollout in waiting.values_list("pk", flat=True):
        if not halt_if_harmful(rollout):
            advance(rollout)
    # In earlier versions two last legs that ended at the same instant left it running.
    for rollout in (
        Rollout.objects.filter(state=Rollout.State.RUNNING).exclude(legs__ended_at=None).values_list("pk", flat=True)
    ):
        advance(rollout)
