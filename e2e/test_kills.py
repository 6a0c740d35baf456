"""Processes are killed in the middle of a rollout, and a real machine joins."""

import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Any
from unittest import TestCase, addModuleCleanup

import psutil

from normant_agent import identity
from normant_standin.postgres import Postgres

from .houses import REPOSITORY, Demo, eventually

CORROW = "corrow/8/preferences.xml"


@cache
def own_house() -> Demo:
    """A demo of its own: what is killed here serves nobody else."""
    made = Demo()
    addModuleCleanup(made.stop)
    made.start()
    eventually(lambda: all(seat["levels"] for seat in made.answer("/seats")["items"]))
    return made


class Kills(TestCase):
    demo: Demo

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.demo = own_house()

    def setUp(self) -> None:
        self.api = self.demo.api()
        self.addCleanup(self.api.close)

    def start(self, *seats: str) -> int:
        """A rollout of what an order can settle on these seats."""
        ids, digest = eventually(lambda: self.planned(seats))
        started: dict[str, Any] = self.api.post("/rollouts", json={"findings": ids, "seen": digest}).json()
        return int(started["id"])

    def planned(self, seats: Sequence[str]) -> tuple[list[int], str] | None:
        """What is off norm on these seats, and the plan's digest, once there is something to change on each."""
        findings = self.api.get("/findings", params={"status": "open"}).json()["items"]
        ids = [f["id"] for f in findings if f["seat"] in seats and f["setting"] != "driver.branch"]
        plan = self.api.post("/rollouts/plan", json={"findings": ids}).json() if ids else {"seats": []}
        ready = {seat["seat"] for seat in plan["seats"] if seat["changes"]} == set(seats)
        return (ids, plan["digest"]) if ready else None

    def states(self, rollout: int) -> dict[str, str]:
        """How each leg stands."""
        return {leg["seat"]: leg["state"] for leg in self.api.get(f"/rollouts/{rollout}").json()["legs"]}

    def await_settled(self, rollout: int) -> None:
        """Every leg settled."""
        eventually(lambda: set(self.states(rollout).values()) == {"settled"}, 60)

    def put_back(self, rollout: int) -> None:
        """As it was."""
        self.await_settled(int(self.api.post(f"/rollouts/{rollout}/put-back").json()["id"]))

    def applied(self, seat: str, since: int) -> int:
        """How often the seat's agent wrote preferences since that entry of the ledger."""
        entries = self.api.get("/ledger", params={"limit": 1000}).json()["items"]
        return sum(
            e["actor"] == f"agent {seat}" and e["action"] == "set_preference" and e["id"] > since for e in entries
        )

    def last_entry(self) -> int:
        return int(self.api.get("/ledger", params={"limit": 1}).json()["items"][0]["id"])

    def test_an_agent_that_loses_power_at_any_step_ends_what_it_began(self) -> None:
        for step in ("saving", "applying", "reading_back"):
            with self.subTest(step):
                before, since = self.demo.file("pan-02", CORROW), self.last_entry()
                self.demo.standin("pull-plug", "pan-02", step)
                seats = self.demo.child("normant_standin.cli")
                rollout = self.start("pan-02")
                eventually(lambda pid=seats: not psutil.pid_exists(pid))
                self.assertIn(self.demo.file("pan-02", CORROW), (before, before.replace(b">256<", b">13108<")))
                self.await_settled(rollout)
                self.assertEqual(self.demo.file("pan-02", CORROW), before.replace(b">256<", b">13108<"))
                self.assertEqual(self.applied("pan-02", since), 1)
                self.put_back(rollout)
                self.assertEqual(self.demo.file("pan-02", CORROW), before)

    def test_a_killed_worker_leaves_nothing_undone(self) -> None:
        os.kill(self.demo.child("manage.py work"), signal.SIGSTOP)
        since = self.last_entry()
        rollout = self.start("sluice-01", "kiln-01")
        self.assertEqual(set(self.states(rollout).values()), {"waiting"})
        os.kill(self.demo.child("manage.py work"), signal.SIGKILL)
        self.await_settled(rollout)
        self.assertEqual((self.applied("sluice-01", since), self.applied("kiln-01", since)), (1, 1))
        self.put_back(rollout)

    def test_a_killed_server_and_a_killed_database_come_back_to_it(self) -> None:
        for name in ("manage.py serve", "bin/postgres"):
            with self.subTest(name):
                worker = self.demo.child("manage.py work")
                rollout = self.start("sluice-01", "kiln-01", "loft-01")
                os.kill(self.demo.child(name), signal.SIGKILL)
                self.await_settled(rollout)
                self.put_back(rollout)
                self.assertTrue(psutil.pid_exists(worker), "the worker gave up, though nobody asked it to")
        output = subprocess.run(
            [sys.executable, str(REPOSITORY / "server" / "manage.py"), "verify_ledger"],
            env={**os.environ, **self.environment()},
            capture_output=True,
            text=True,
            check=True,
        )
        self.assertIn("the chain is whole", output.stdout)

    def environment(self) -> dict[str, str]:
        """What a command of the demo's server needs."""
        return {"DATABASE_URL": Postgres(self.demo.run).url, "NORMANT_KEYS": str(self.demo.run / "keys")}

    def test_a_real_machine_joins_as_one_more_seat(self) -> None:
        offer = self.api.post("/enrolments", json={"seat": "this-machine", "role": "ingest", "room": "Sluice"}).json()
        state, preferences = Path(tempfile.mkdtemp()), tempfile.mkdtemp()
        cli = [sys.executable, "-m", "normant_agent.cli"]
        subprocess.run([*cli, "enrol", self.demo.known["address"], offer["code"], "--state", str(state)], check=True)
        self.assertEqual(identity.load(state).seat, "this-machine")
        agent = subprocess.Popen([*cli, "agent", "--state", str(state), "--preferences", preferences])
        try:
            record = eventually(lambda: self.heard("this-machine"))
        finally:
            agent.terminate()
            agent.wait(timeout=60)
        self.assertEqual(record["facts"]["memory"]["total"], psutil.virtual_memory().total)
        self.assertEqual(record["facts"]["cpu"]["threads"], psutil.cpu_count())
        rows = [row for family in record["families"] for row in family["rows"] if row["setting"] == "power.profile"]
        self.assertEqual(len(rows), 1)
        if rows[0]["status"] == "unread":
            self.assertIn("platform_profile", rows[0]["reason"])

    def heard(self, seat: str) -> dict[str, Any] | None:
        """The seat's record once it has facts."""
        record: dict[str, Any] = self.api.get(f"/seats/{seat}").json()
        return record if record["facts"] else None


class Starting(TestCase):
    def test_started_again_it_is_there_with_its_data(self) -> None:
        house = own_house()
        before = house.answer("/ledger")["total"]
        house.stop()
        begun = time.monotonic()
        house.start()
        self.assertGreaterEqual(house.answer("/ledger")["total"], before)
        print(f"\nstarted again in {time.monotonic() - begun:.1f} s", file=sys.stderr)

    def test_a_port_that_is_taken_is_told_in_one_line(self) -> None:
        other = tempfile.mkdtemp()
        command = [sys.executable, "-m", "normant_standin.demo", "--run", other, "--port", str(own_house().port)]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, len(done.stderr.splitlines())), (1, 1))
        self.assertIn("choose another with --port", done.stderr)
