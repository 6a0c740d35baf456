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
from typing import Any
from unittest import TestCase

from normant_standin import demo as standin
from normant_standin.host import StandInHost
from normant_standin.postgres import Postgres

from .houses import REPOSITORY, ROOT, House, eventually

RECORDED = sorted(path for path in (REPOSITORY / "tests" / "recorded").iterdir() if path.is_dir())
NOT_THERE: tuple[str, ...] = ()


@cache
def recorded_house(version: str) -> House:
    """The house that a version recorded, migrated by this one."""
    recording, image = REPOSITORY / "tests" / "recorded" / version, ROOT / f"recorded-{version}"
    image.mkdir()
    image.chmod(0o755)
    with tarfile.open(recording / "files.tar.xz") as packed:
        packed.extractall(image, filter="data")
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
    return House(image)


def _is_as_before(house: House, seat: str, name: str, content: bytes) -> bool:
    return house.file(seat, name) == content


class Recorded(TestCase):
    """Each test is made for each version that left a recording."""

    def each(self) -> Iterator[tuple[House, dict[str, Any]]]:
        for recording in RECORDED:
            with self.subTest(recording.name):
                house = recorded_house(recording.name)
                state = json.loads((recording / "state.json").read_text("utf-8"))
                yield house, state

    def test_every_list_and_page_answers(self) -> None:
        for house, state in self.each():
            house.ready({}, ())
            self.addCleanup(house.stop)
            answered = list(self.pages(house, state))
            self.assertGreater(len(answered), 60)

    def pages(self, house: House, state: dict[str, Any]) -> Iterator[str]:
        """Ask for every address of the API, with what the house has in the places of numbers and names."""
        known = {
            **{"/seats/{name}": state["seats"][2], "/rollouts/{number}": state["rollout"]},
            **{"/trials/{number}": state["trial"], "/clearings/{number}": state["clean_up"], "/{place}": 0},
            **{"/dialects/{app}": "corrow", "/sheet/{seat}": state["seats"][4], "/seats/{seat}": state["seats"][2]},
        }
        with house.api() as api:
            for path, operations in api.get("/openapi.json").json()["paths"].items():
                address = path.removeprefix("/api/v1")
                for part, value in known.items():
                    address = address.replace(part, part[: part.index("{")] + str(value))
                parameters = operations.get("get", {}).get("parameters", [])
                asks = any(parameter["in"] == "query" and parameter["required"] for parameter in parameters)
                if "get" in operations and "{" not in address and not asks and address not in NOT_THERE:
                    api.get(address)  # raises for a refusal
                    yield address

    def test_agents_and_server_go_on_and_everything_is_put_back(self) -> None:
        for house, state in self.each():
            house.changed = True
            house.ready({}, ())
            self.addCleanup(house.stop)
            for seat in state["held"]:
                with StandInHost(house.run / "seats" / seat).changed() as machine:
                    machine.holds_at = ""
            house.ready({}, state["seats"])
            self.finish_rollout(house, state["rollout"])
            self.end_trial(house, state["trial"])
            self.end_trial(house, state["by_hand"])
            self.finish_clean_up(house, state["clean_up"])
            self.until_put_back(house, state["before"])
            self.verify_ledger(house)

    def until_put_back(self, house: House, before: dict[str, dict[str, str]]) -> None:
        """Wait until each file has its bytes from before the first rollout again."""
        for seat, files in before.items():
            for name, content in files.items():
                eventually(partial(_is_as_before, house, seat, name, base64.b64decode(content)))

    def finish_rollout(self, house: House, number: int) -> None:
        eventually(lambda: house.answer(f"/rollouts/{number}")["state"] == "finished")
        back = house.post(f"/rollouts/{number}/put-back", {})["id"]
        eventually(lambda: house.answer(f"/rollouts/{back}")["state"] == "finished")

    def end_trial(self, house: House, number: int) -> None:
        house.post(f"/trials/{number}/halt", {"why": "recorded"})
        eventually(lambda: house.answer(f"/trials/{number}")["state"] not in ("running", "waiting"))

    def finish_clean_up(self, house: House, number: int) -> None:
        eventually(lambda: house.answer(f"/clearings/{number}")["state"] == "ended")
        with house.api() as api:
            api.post(f"/clearings/{number}/put-back")

    def verify_ledger(self, house: House) -> None:
        command = [sys.executable, str(standin.MANAGE), "verify_ledger"]
        env = {**os.environ, "DATABASE_URL": house.database_url, "NORMANT_KEYS": str(house.run / "keys")}
        done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
        self.assertIn("the chain is whole", done.stdout + done.stderr)
