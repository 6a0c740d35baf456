"""Jobs that move rollouts."""

import datetime as dt

from django.db.models import Q
from django.utils import timezone
from procrastinate.contrib.django import app

from .models import Calendar, Order, Rollout
from .services.advance import advance
from .services.keep_calendar import fetch_again
from .services.run_errands import prove
from .services.sign import sign_waiting
from .services.watch import halt_if_harmful

KEPT_FILES, KEPT_LISTS = dt.timedelta(hours=1), dt.timedelta(days=1)
DEAD_AFTER = 30  # seconds without a heartbeat of the worker, which beats every ten


@app.task(name="rollouts.advance")
def advance_rollout(rollout: int) -> None:
    """Begin the legs that may begin, unless the last ones did harm."""
    if not halt_if_harmful(rollout):
        advance(rollout)


@app.periodic(cron="* * * * *")
@app.task(name="rollouts.prove_errands", lock="prove errands")
def prove_errands(timestamp: int = 0) -> None:
    """Each minute: errands whose proof came the short way."""
    prove()


@app.periodic(cron="*/15 * * * *")
@app.task(name="rollouts.fetch_calendars", lock="fetch calendars")
def fetch_calendars(timestamp: int = 0) -> None:
    """Each quarter of an hour: the calendars that the house follows, each by itself."""
    for room in Calendar.objects.exclude(address="").values_list("room", flat=True):
        fetch_again(room)


@app.periodic(cron="20 * * * *")
@app.task(name="rollouts.forget_files")
def forget_files(timestamp: int = 0) -> None:
    """Each hour: let go of files that seats sent for teaching an hour ago, and of what stores held a day ago."""
    now = timezone.now()
    for kind, key, kept in (("send_files", "files", KEPT_FILES), ("list_store", "listed", KEPT_LISTS)):
        for order in Order.objects.filter(kind=kind, received_at__lt=now - kept, receipt__has_key=key):
            order.receipt.pop(key)
            order.save(update_fields=["receipt"])


@app.periodic(cron="* * * * *")
@app.task(name="rollouts.take_up")
async def take_up(timestamp: int = 0) -> None:
    """Each minute: jobs that died with their worker. What they had locked nobody else can do before."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER):
        await app.job_manager.retry_job(job)


@app.task(name="rollouts.sign", lock="sign")
def sign() -> None:
    """Sign what web processes wrote."""
    sign_waiting()


@app.periodic(cron="* * * * *")
@app.task(name="rollouts.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute, and when a worker starts: go on with every rollout whose job was lost with its worker."""
    sign_waiting()
    waiting = Rollout.objects.filter(Q(legs__begun_at=None, legs__state="waiting"), state="running").distinct()
    for rollout in waiting.values_list("pk", flat=True):
        if not halt_if_harmful(rollout):
            advance(rollout)
    # In earlier versions two last legs that ended at the same instant left it running.
    for rollout in Rollout.objects.filter(state="running").exclude(legs__ended_at=None).values_list("pk", flat=True):
        advance(rollout)
