from asgiref.sync import async_to_sync
from django.db import connection
from django.test import TestCase

from normant.config.jobs import take_up
from normant.findings.jobs import reevaluate_seats


class TakeUp(TestCase):
    def states(self) -> list[str]:
        with connection.cursor() as cursor:
            cursor.execute("SELECT status FROM procrastinate_jobs ORDER BY id")
            return [status for (status,) in cursor.fetchall()]

    def begun_by_a_worker(self, seconds_ago: int) -> None:
        """A job that a worker has in hand which was last heard that long ago."""
        number = reevaluate_seats.defer(seats=[])
        with connection.cursor() as cursor:
            cursor.execute(
                "WITH worker AS (INSERT INTO procrastinate_workers (last_heartbeat)"
                " VALUES (now() - %s * interval '1 second') RETURNING id)"
                " UPDATE procrastinate_jobs SET status = 'doing', worker_id = worker.id FROM worker"
                " WHERE procrastinate_jobs.id = %s",
                [seconds_ago, number],
            )

    def test_a_job_that_died_with_its_worker_is_begun_again_and_no_other(self) -> None:
        self.begun_by_a_worker(120)
        self.begun_by_a_worker(5)
        async_to_sync(take_up.func)(timestamp=0)
        self.assertEqual(sorted(self.states()), ["doing", "todo"])
