"""What earlier versions left is taken up: houses that were stopped in the middle of their work go on to its end."""

import base64
import json
import lzma
import os
import subprocess
import sys
import tarfile
from collections.abc import Iterator
from functools import cache, partial
from http import HTTPStatus
from multiprocessing.util import Finalize
from pathlib import Path
from typing import Any
from unittest import TestCase

import httpx

from normant_core.tests.waiting import PATIENCE_SECONDS
from normant_standin import demo as standin
from normant_standin.host import StandInHost
from normant_standin.postgres import Postgres

from .houses import REPOSITORY, ROOT, House, eventually

RECORDED = sorted(path for path in (REPOSITORY / "tests" / "recorded").iterdir() if path.is_dir())
ANSWERED = (HTTPStatus.OK, HTTPStatus.CONFLICT)  # the file of a list whose parts have not all come is refused


@cache
def recorded_house(version: str) -> House:
    """The house that a version recorded, migrated by this one."""
    recording, image = REPOSITORY / "tests" / "recorded" / version, ROOT / f"recorded-{version}"
    image.mkdir()
    image.chmod(0o755)
    with tarfile.open(recording / "files.tar.xz") as packed:
        packed.extractall(image, filter="tar")  # a store has a link that leads elsewhere
        for member in packed:
            if member.isfile():
                os.utime(image / member.name, (float(member.pax_headers["atime"]), member.mtime))
    cluster = Postgres(image, lasting=False)
    cluster.start()
    try:
        dump = lzma.decompress((recording / "database.sql.xz").read_bytes())
        restore = ["psql", "--quiet", "-v", "ON_ERROR_STOP=1", "--output", os.devnull, cluster.url]
        subprocess.run(restore, input=dump, check=True)
        migrate = [sys.executable, str(standin.MANAGE), "migrate", "--verbosity", "0"]
        env = {**os.environ, "DATABASE_URL": cluster.url, "NORMANT_KEYS": str(image / "keys")}
        subprocess.run(migrate, env=env, check=True)
    finally:
        cluster.stop()
    house = House(image)
    Finalize(None, house.close, exitpriority=1)
    return house


def _state(recording: Path) -> dict[str, Any]:
    state: dict[str, Any] = json.loads((recording / "state.json").read_text("utf-8"))
    return state


def _is_as_before(house: House, seat: str, name: str, content: bytes) -> bool:
    return house.file(seat, name) == content


def _ended_plan(house: House, number: int) -> dict[str, Any] | None:
    plan: dict[str, Any] = house.answer(f"/clearings/{number}")
    return plan if plan["state"] in ("ended", "halted") else None


def _move(house: House, recorded_at: str) -> None:
    """Simulated disks are folders of the demo: what an agent noted of them says where it ran."""
    for path in (house.run / "seats").glob("*/agent/**/*"):
        if path.is_file():
            path.write_bytes(path.read_bytes().replace(recorded_at.encode(), str(house.run).encode()))


class Recorded(TestCase):
    """Each test is made for each version that left a recording."""

    def test_every_list_and_page_answers(self) -> None:
        for recording in RECORDED:
            with self.subTest(recording.name):
                house, state = recorded_house(recording.name), _state(recording)
                house.ready({}, ())
                statuses = dict(self.pages(house, state))
                self.assertEqual({path: status for path, status in statuses.items() if status not in ANSWERED}, {})
                self.assertGreater(len(statuses), 60)

    def pages(self, house: House, state: dict[str, Any]) -> Iterator[tuple[str, int]]:
        """Ask for every address of the API that a script may read, with what the house has in the places of numbers."""
        _, finished, _, cleaned, by_hand = state["seats"]
        known = {
            **{"/trials/{number}/sheet/{seat}": f"{state['by_hand']}/sheet/{by_hand}"},
            **{"/rollouts/{number}/seats/{name}": f"{state['report']}/seats/{finished}"},
            **{"/clearings/{number}/seats/{name}": f"{state['clean_up']}/seats/{cleaned}"},
            **{"/seats/{name}": finished, "/rollouts/{number}": state["report"], "/trials/{number}": state["trial"]},
            **{"/clearings/{number}": state["clean_up"], "/{place}": 0, "/dialects/{app}": "corrow"},
        }
        address, token = house.known["address"], {"Authorization": f"Bearer {house.known['token']}"}
        with httpx.Client(base_url=address, headers=token, trust_env=False, timeout=PATIENCE_SECONDS) as script:
            for template, operations in script.get("/api/v1/openapi.json").json()["paths"].items():
                path = template
                for part, value in known.items():
                    path = path.replace(part, part[: part.index("{")] + str(value))
                parameters = operations.get("get", {}).get("parameters", [])
                asks = any(parameter["in"] == "query" and parameter["required"] for parameter in parameters)
                if "get" in operations and "{" not in path and not asks and not path.endswith("/errands/sheet"):
                    answer = script.get(path)
                    if answer.status_code != HTTPStatus.FORBIDDEN:  # what is done in person, or by an administrator
                        yield path, answer.status_code

    def test_agents_and_server_go_on_and_everything_is_put_back(self) -> None:
        for recording in RECORDED:
            with self.subTest(recording.name):
                self.go_on(recorded_house(recording.name), _state(recording))

    def go_on(self, house: House, state: dict[str, Any]) -> None:
        house.changed = True
        house.ready({}, ())
        _move(house, state["run"])
        for seat in state["held"]:
            with StandInHost(house.run / "seats" / seat).changed() as machine:
                machine.holds_at = ""
        house.ready({}, state["seats"])
        for number in (state["rollout"], state["report"]):
            self.put_rollout_back(house, number)
        self.end_trial(house, state["trial"])
        self.end_trial(house, state["by_hand"])
        self.finish_clean_up(house, state["clean_up"])
        self.until_put_back(house, state["before"])
        self.verify_ledger(house)
        house.changed = True

    def until_put_back(self, house: House, before: dict[str, dict[str, str]]) -> None:
        """Wait until each file has its bytes from before the first rollout again."""
        for seat, files in before.items():
            for name, content in files.items():
                eventually(partial(_is_as_before, house, seat, name, base64.b64decode(content)))

    def put_rollout_back(self, house: House, number: int) -> None:
        eventually(lambda: house.answer(f"/rollouts/{number}")["state"] == "finished")
        back = house.post(f"/rollouts/{number}/put-back", {})["id"]
        eventually(lambda: house.answer(f"/rollouts/{back}")["state"] == "finished")

    def end_trial(self, house: House, number: int) -> None:
        house.post(f"/trials/{number}/halt", {"why": "recorded"})
        eventually(lambda: house.answer(f"/trials/{number}")["state"] not in ("running", "waiting"))

    def finish_clean_up(self, house: House, number: int) -> None:
        """A list that agents before 0.8.0 made names projects and no deliveries: its files stay, and it says why."""
        plan = eventually(partial(_ended_plan, house, number))
        self.assertEqual((plan["going"], plan["cleared"], plan["on"][0]["state"]), (18, 0, "stopped"), plan)
        self.assertIn("does not show which deliveries release its files. Create a new plan", plan["on"][0]["message"])

    def verify_ledger(self, house: House) -> None:
        command = [sys.executable, str(standin.MANAGE), "verify_ledger"]
        env = {**os.environ, "DATABASE_URL": house.database_url, "NORMANT_KEYS": str(house.run / "keys")}
        done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
        self.assertIn("the chain is whole", done.stdout + done.stderr)
