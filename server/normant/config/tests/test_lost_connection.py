"""After a restart of the database nobody who only reads is told that it is away."""

from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace
from unittest import TestCase
from unittest.mock import patch

import psycopg
from django.http import HttpResponse
from django.test import RequestFactory, SimpleTestCase

from normant.common import lost_connection
from normant.common.lost_connection import LostConnection
from normant.tests.served import DATABASE, served

from .test_worker import address

READS = 40  # at the same time: more than the server has threads


class AfterRestart(TestCase):
    def test_reads_are_answered_by_every_thread(self) -> None:
        house = served()
        with house.client("supervisor") as supervisor, house.client("agent") as agent:

            def read(number: int) -> int:
                client, path = (agent, "agent/orders") if number % 4 == 0 else (supervisor, "seats")
                return client.get(f"/api/v1/{path}").status_code

            with ThreadPoolExecutor(READS) as threads:
                self.assertEqual(set(threads.map(read, range(READS))), {200})  # every thread has its connection
                with psycopg.connect(address("postgres"), autocommit=True) as outside:
                    ended = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s"
                    outside.execute(ended, [DATABASE])
                self.assertEqual(set(threads.map(read, range(READS))), {200})


class Once(SimpleTestCase):
    """What the middleware does with an answer, by the state of the connection."""

    def statuses(self, method: str, *, errors: bool, usable: bool) -> tuple[int, int]:
        """Times that the request was answered, and the last status."""
        answers = iter((503, 200))
        count = 0

        def answer(request: object) -> HttpResponse:
            nonlocal count
            count += 1
            return HttpResponse(status=next(answers))

        here = SimpleNamespace(
            errors_occurred=errors, in_atomic_block=False, is_usable=lambda: usable, close=lambda: None
        )
        with patch.object(lost_connection, "connection", here):
            status = LostConnection(answer)(RequestFactory().generic(method, "/")).status_code
        return count, status

    def test_a_read_is_tried_again_once_where_the_connection_was_lost(self) -> None:
        for method in ("GET", "HEAD"):
            self.assertEqual(self.statuses(method, errors=True, usable=False), (2, 200))

    def test_a_write_is_never_tried_again(self) -> None:
        for method in ("POST", "PUT", "PATCH", "DELETE"):
            self.assertEqual(self.statuses(method, errors=True, usable=False), (1, 503))

    def test_nothing_is_asked_of_a_connection_without_an_error(self) -> None:
        self.assertEqual(self.statuses("GET", errors=False, usable=False), (1, 503))
        self.assertEqual(self.statuses("GET", errors=True, usable=True), (1, 503))
