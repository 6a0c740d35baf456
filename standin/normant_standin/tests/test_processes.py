"""What the demo starts and keeps up: a PostgreSQL of its own, and programs that are started again when they end."""

import fcntl
import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import psycopg

from normant_core.tests.waiting import until
from normant_standin.demo import LOG_BYTES, REPOSITORY, Child, Demo
from normant_standin.postgres import Postgres, PostgresError, free_port


class InRun(TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.run_folder = Path(temporary.name)
        self.run_folder.chmod(0o755)  # PostgreSQL's own user goes in as well


def answer(url: str, question: str) -> object:
    with psycopg.connect(url) as connection:
        row = connection.execute(question).fetchone()
        return row and row[0]


def listener(port: int) -> socket.socket | None:
    """A listener at that port, or None as long as another one has it."""
    made = socket.socket()
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        made.bind(("127.0.0.1", port))
        made.listen()
    except OSError:
        made.close()
        return None
    return made


class Database(InRun):
    def start(self) -> Postgres:
        cluster = Postgres(self.run_folder)
        cluster.start()
        self.addCleanup(cluster.stop)
        return cluster

    def test_data_stays_when_its_process_is_killed_or_its_port_is_taken(self) -> None:
        cluster = self.start()
        with psycopg.connect(cluster.url) as connection:
            connection.execute("CREATE TABLE kept AS SELECT 7 AS number")
        assert cluster.process
        cluster.process.send_signal(signal.SIGQUIT)  # at once, as a machine that goes off
        cluster.process.wait()
        port = json.loads((self.run_folder / "postgres.json").read_text("utf-8"))["port"]
        with until(lambda: listener(port)):
            again = self.start()
            self.assertEqual(answer(again.url, "SELECT number FROM kept"), 7)
            self.assertNotIn(f":{port}/", again.url)

    def test_starts_on_another_port_when_a_copy_took_its_own_at_the_same_moment(self) -> None:
        first = self.start()
        second = Postgres(self.run_folder / "second")
        taken = int(first.url.rpartition(":")[2].partition("/")[0])
        made = patch("normant_standin.postgres.free_port", side_effect=[taken, free_port()])
        with made, patch("normant_standin.postgres._is_free", return_value=True):  # as each of them saw it
            second.start()
        self.addCleanup(second.stop)
        self.assertNotIn(f":{taken}/", second.url)
        self.assertEqual([answer(cluster.url, "SELECT 1") for cluster in (first, second)], [1, 1])

    def test_one_that_an_earlier_start_left_running_is_replaced(self) -> None:
        before = self.start()
        again = self.start()
        assert before.process
        self.assertIsNotNone(before.process.wait(timeout=60))
        self.assertEqual(answer(again.url, "SELECT 1"), 1)

    def test_its_password_is_for_the_owner_alone(self) -> None:
        self.start()
        self.assertEqual((self.run_folder / "postgres.json").stat().st_mode & 0o777, 0o600)
        self.assertEqual(list(self.run_folder.glob("*.password")), [])

    def test_a_damaged_cluster_says_where_its_log_is(self) -> None:
        self.start().stop()
        (self.run_folder / "postgres" / "global" / "pg_control").write_bytes(b"")
        with self.assertRaisesRegex(PostgresError, r"see .*postgres\.log"):
            Postgres(self.run_folder).start()


class Children(InRun):
    def child(self, program: str) -> Child:
        made = Child("sleeper", [sys.executable, "-c", program], self.run_folder / "sleeper.log")
        self.addCleanup(made.stop)
        return made

    def test_one_that_ends_is_noticed_and_fails_after_five_starts(self) -> None:
        child = self.child("raise SystemExit(3)")
        for start in range(5):
            self.assertFalse(child.failing(), start)
            child.start(dict(os.environ))
            until(child.ended)
        self.assertTrue(child.failing())

    def test_one_that_will_not_end_is_killed(self) -> None:
        child = self.child(
            "import signal, time; signal.signal(15, signal.SIG_IGN); print('up', flush=True); time.sleep(600)"
        )
        child.start(dict(os.environ))
        until(lambda: "up" in child.log.read_text("utf-8"))
        child.stop()
        assert child.process
        self.assertEqual(child.process.returncode, -signal.SIGKILL)

    def test_its_log_is_kept_in_bounds(self) -> None:
        child = self.child("")
        child.log.write_bytes(b"x" * (LOG_BYTES + 1))
        child.rotate()
        self.assertEqual(child.log.read_bytes(), b"")
        self.assertEqual(child.log.with_suffix(".log.1").stat().st_size, LOG_BYTES + 1)
        child.log.write_bytes(b"short")
        child.rotate()
        self.assertEqual(child.log.read_bytes(), b"short")


class Refusals(InRun):
    def start(self, port: int) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "normant_standin.demo", "--run", str(self.run_folder), "--port", str(port)]
        return subprocess.run(command, capture_output=True, text=True, check=False, cwd=REPOSITORY)

    def test_a_second_demo_in_the_same_folder_says_what_to_do(self) -> None:
        with (self.run_folder / "demo.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            done = self.start(free_port())
        self.assertEqual(done.returncode, 1)
        self.assertIn("choose another folder with --run", done.stderr)
        self.assertEqual([path.name for path in self.run_folder.iterdir()], ["demo.lock"])

    def test_a_port_that_is_taken_says_what_to_do(self) -> None:
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            port = other.getsockname()[1]
            done = self.start(port)
        self.assertEqual(done.returncode, 1)
        self.assertIn(f"port {port} is taken: stop what listens there, or choose another with --port", done.stderr)
        self.assertNotIn("Traceback", done.stderr)

    def test_codes_that_were_not_redeemed_yet_are_kept(self) -> None:
        (self.run_folder / "codes.json").write_text(json.dumps({"pan-01": "old", "pan-02": "kept"}), "utf-8")
        codes = Demo(self.run_folder, free_port())._codes({"pan-01": "new"})
        self.assertEqual(codes, {"pan-01": "new", "pan-02": "kept"})
