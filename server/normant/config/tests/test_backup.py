import os
import re
import stat
import subprocess
from pathlib import Path

from django.test import SimpleTestCase

from normant.tests.served import Served

ROOT = Path(__file__).resolve().parents[4]
TOOLS = sorted(Path("/usr/lib/postgresql").glob("*/bin"))[-1]


class AsWritten(SimpleTestCase):
    """The lines of docs/operations.md, run as they stand."""

    def lines(self, number: int) -> str:
        text = (ROOT / "docs" / "operations.md").read_text("utf-8")
        section = text.partition("\n## Backup and restore\n")[2].partition("\n## ")[0]
        return re.findall(r"```\n(.*?)```", section, re.DOTALL)[number]

    def run_as_written(self, number: int, env: dict[str, str]) -> str:
        path = f"{TOOLS}:{os.environ['PATH']}"
        done = subprocess.run(
            ["/bin/sh", "-ec", self.lines(number)],
            cwd=ROOT,
            env={**env, "PATH": path},
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        return done.stdout + done.stderr

    def test_a_house_comes_back_on_a_machine_that_has_nothing(self) -> None:
        house = Served("normant_lost")
        self.addCleanup(house.stop)
        house.manage("people", "list")
        keys, packages, backup = house.run / "keys", house.run / "packages", house.run / "backup"
        packages.mkdir()
        (packages / ("0" * 64)).write_bytes(b"a driver")
        signed = house.agent_dialects()
        env = {**house.env, "NORMANT_PACKAGES": str(packages), "BACKUP": str(backup)}
        self.run_as_written(0, env)
        house.stop()

        elsewhere = Served("normant_found", furnished=False, NORMANT_KEYS=str(house.run / "new" / "keys"))
        self.addCleanup(elsewhere.stop)
        fresh = house.run / "new"
        env = {**elsewhere.env, "NORMANT_PACKAGES": str(fresh / "packages"), "BACKUP": str(backup)}
        output = self.run_as_written(1, env)
        self.assertIn("the chain is whole", output)
        elsewhere.serve()
        elsewhere.tokens, elsewhere.agent = house.tokens, house.agent
        self.assertEqual(elsewhere.agent_dialects(), signed)
        with elsewhere.client("supervisor") as supervisor:
            self.assertEqual(supervisor.get("/api/v1/seats").json()["items"][0]["name"], "pan-03")
        for path in (*(fresh / "keys").glob("*.key"), *backup.iterdir()):
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600, path)
        self.assertEqual((fresh / "keys" / "order.key").read_bytes(), (keys / "order.key").read_bytes())
        self.assertEqual((fresh / "packages" / ("0" * 64)).read_bytes(), b"a driver")
