"""Jobs that move rollouts."""

from django.db.models import Q
from procrastinate.contrib.django import app

from .models import Rollout
from .services.advance import advance


@app.task(name="rollouts.advance")
def advance_rollout(rollout: int) -> None:
    """Begin the legs that may begin."""
    advance(rollout)


@app.periodic(cron="* * * * *")
@app.task(name="rollouts.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute, and when a worker starts: go on with every rollout whose job was lost with its worker."""
    waiting = Rollout.objects.filter(Q(legs__begun_at=None, legs__state="waiting"), state="running").distinct()
    for rollout in waiting.values_list("pk", flat=True):
        advance(rollout)
