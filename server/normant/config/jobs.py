"""Jobs that keep in bounds what no app keeps for itself."""

import datetime as dt
from importlib import import_module

from asgiref.sync import sync_to_async
from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.conf import settings
from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django import app

from normant.accounts.models import Act
from normant.notices.models import SentNotice
from normant.packages.services.forget_packages import forget_packages

JOBS_HOURS = 72
DEAD_AFTER = 30  # seconds without a heartbeat of the worker, which beats every ten
ACTS, ATTEMPTS, TOLD = dt.timedelta(days=1), dt.timedelta(days=30), dt.timedelta(days=400)


@app.periodic(cron="10 * * * *")
@app.task(name="config.prune", lock="prune")
async def prune(timestamp: int = 0) -> None:
    """Each hour: finished jobs with their events, and everything that is only of use for a while."""
    await app.job_manager.delete_old_jobs(JOBS_HOURS, include_failed=True, include_cancelled=True, include_aborted=True)
    await sync_to_async(prune_rows)()
    await sync_to_async(forget_packages)()


def prune_rows() -> None:
    """Of the tables that grow with every request or minute."""
    now = timezone.now()
    with connection.cursor() as cursor:
        # The newest of each task says when it was last begun: it stays.
        cursor.execute(
            """
            DELETE FROM procrastinate_periodic_defers d
             WHERE d.job_id IS NULL AND EXISTS (SELECT FROM procrastinate_periodic_defers newer
                    WHERE newer.task_name = d.task_name AND newer.periodic_id = d.periodic_id
                      AND newer.defer_timestamp > d.defer_timestamp)
            """
        )
    Act.objects.filter(at__lt=now - ACTS).delete()
    for attempts in (AccessAttempt, AccessFailureLog, AccessLog):
        attempts.objects.filter(attempt_time__lt=now - ATTEMPTS).delete()
    SentNotice.objects.filter(at__lt=now - TOLD).delete()
    import_module(settings.SESSION_ENGINE).SessionStore.clear_expired()


@app.periodic(cron="* * * * *")
@app.task(name="config.take_up", aliases=["rollouts.take_up"])
async def take_up(timestamp: int = 0) -> None:
    """Each minute: jobs that died with their worker. What they had locked nobody else can do before."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER):
        await app.job_manager.retry_job(job)
