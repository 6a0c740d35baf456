import datetime as dt

from asgiref.sync import async_to_sync
from axes.models import AccessAttempt
from django.db import connection
from django.test import TestCase
from django.utils import timezone

from normant.accounts.models import Act
from normant.config.jobs import ACTS, ATTEMPTS, prune, prune_rows
from normant.findings.jobs import reevaluate_seats


class Prune(TestCase):
    def count(self, table: str) -> int:
        with connection.cursor() as cursor:
            cursor.execute(f"SELECT count(*) FROM {table}")
            count: int = cursor.fetchone()[0]
        return count

    def finished(self, ago: str, status: str) -> None:
        """A job that ended that long ago, with its events."""
        number = reevaluate_seats.defer(seats=[])
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_jobs SET status = %s WHERE id = %s", [status, number])
            cursor.execute(
                "INSERT INTO procrastinate_events (job_id, type, at) VALUES (%s, %s, now() - %s::interval)",
                [number, status, ago],
            )
            cursor.execute("UPDATE procrastinate_events SET at = now() - %s::interval WHERE job_id = %s", [ago, number])

    def test_finished_jobs_go_with_their_events_and_no_others(self) -> None:
        for status in ("succeeded", "failed"):
            self.finished("4 days", status)
            self.finished("1 hour", status)
        async_to_sync(prune.func)(timestamp=0)
        self.assertEqual(self.count("procrastinate_jobs"), 2)
        self.assertEqual(self.count("procrastinate_events WHERE at < now() - interval '3 days'"), 0)

    def test_begun_periods_are_kept_once_for_each_task(self) -> None:
        with connection.cursor() as cursor:
            for number in range(5):
                cursor.execute(
                    "INSERT INTO procrastinate_periodic_defers (task_name, defer_timestamp, periodic_id)"
                    " VALUES ('a', %s, ''), ('b', %s, '')",
                    [number, number],
                )
        prune_rows()
        self.assertEqual(self.count("procrastinate_periodic_defers WHERE defer_timestamp = 4"), 2)
        self.assertEqual(self.count("procrastinate_periodic_defers"), 2)

    def test_keys_of_acts_and_tries_to_sign_in_are_forgotten_after_their_time(self) -> None:
        now = timezone.now()
        for past in (ACTS + dt.timedelta(hours=1), dt.timedelta(hours=1)):
            act = Act.objects.create(who="sal", key=str(past), request="", status=200, kind="", body=b"")
            Act.objects.filter(pk=act.pk).update(at=now - past)
        for past in (ATTEMPTS + dt.timedelta(hours=1), dt.timedelta(hours=1)):
            attempt = AccessAttempt.objects.create(username=str(past), ip_address="10.0.0.1", failures_since_start=1)
            AccessAttempt.objects.filter(pk=attempt.pk).update(attempt_time=now - past)
        prune_rows()
        self.assertEqual((Act.objects.count(), AccessAttempt.objects.count()), (1, 1))
