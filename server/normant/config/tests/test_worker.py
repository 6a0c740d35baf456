import psycopg
from django.db import connection
from django.test import SimpleTestCase, TestCase
from psycopg import sql

from normant.tests.databases import address
from normant.tests.served import Served

DATABASE = "normant_outlived"
PATIENCE = 120  # seconds


class Outlives(SimpleTestCase):
    """A worker whose database goes away for a while is the same process, and goes on with its work."""

    def test_its_database(self) -> None:
        house = Served(DATABASE)
        self.addCleanup(house.stop)
        with house.client("supervisor") as supervisor, house.client("agent") as agent:

            def shown() -> int:
                answer = agent.get("/api/v1/agent/orders")  # each thread's connection is found dead once
                self.assertIn(answer.status_code, (200, 503))
                return len(answer.json().get("items", []))

            self.assertTrue(supervisor.get("/api/v1/house/state").json()["worker_silent"])
            self.assertEqual(supervisor.post("/api/v1/seats/pan-03/survey").status_code, 200)
            state = supervisor.get("/api/v1/house/state").json()
            self.assertIn("1 order that is not signed", state["stands_still"])
            self.assertEqual(shown(), 0)

            worker = house.beside("work")
            house.until(lambda: shown() == 1, PATIENCE)
            house.until(lambda: not supervisor.get("/api/v1/house/state").json()["worker_silent"], PATIENCE)
            self.assertEqual(supervisor.get("/api/v1/house/state").json()["stands_still"], [])

            with psycopg.connect(address("postgres"), autocommit=True) as outside:
                name = sql.Identifier(DATABASE)
                outside.execute(sql.SQL("ALTER DATABASE {} ALLOW_CONNECTIONS false").format(name))
                ended = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s"
                outside.execute(ended, [DATABASE])
                self.assertEqual(supervisor.get("/api/v1/seats").status_code, 503)
                house.until(lambda: "the database is away" in house.log.read_text("utf-8"), PATIENCE)
                outside.execute(sql.SQL("ALTER DATABASE {} ALLOW_CONNECTIONS true").format(name))

            given = {"app": "", "why": "its driver was changed"}
            house.until(lambda: supervisor.get("/api/v1/seats").status_code == 200, PATIENCE)
            self.assertEqual(supervisor.post("/api/v1/seats/pan-03/ask", json=given).status_code, 200)
            house.until(lambda: shown() == 2, PATIENCE)
        self.assertIsNone(worker.poll())


class Frozen(TestCase):
    def test_no_connection_holds_a_transaction_for_ever(self) -> None:
        """Or a worker whose machine sleeps, with the ledger's lock in hand, would stop the house."""
        with connection.cursor() as cursor:
            cursor.execute("SHOW idle_in_transaction_session_timeout")
            self.assertEqual(cursor.fetchone(), ("5min",))
