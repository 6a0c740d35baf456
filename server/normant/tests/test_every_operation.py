"""Every operation of the API, given what a generator makes of its own document: sound, unsound and strange."""

import os
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from django.test import SimpleTestCase

from .served import Served

SEED = 14
SECONDS = 900  # at most
# Who asks for which addresses, and the outermost cases of each operation; generated ones besides. Side by side, each in
# one thread: two threads that compile Python at once trip over one another in Python 3.11. Who may least gets as far as
# the door.
VISITS = (
    ("administrator", "[a-c]", 4),
    ("administrator", "[d-q]", 4),
    ("administrator", "[r-z]", 4),
    ("editor", "", 1),
)


class EveryOperation(SimpleTestCase):
    """No server error, and no status that the document does not tell."""

    def test_holds(self) -> None:
        # Of its own: not much is left as it was.
        house = Served("normant_every_operation", NORMANT_PATIENCE_SECONDS="0")
        self.addCleanup(house.stop)
        with ThreadPoolExecutor(len(VISITS)) as threads:
            for done in threads.map(lambda visit: self.visit(house, *visit), VISITS):
                self.assertEqual(done.returncode, 0, done.stdout[-6000:] + done.stderr[-2000:])
        # Had a generated call withdrawn the token, the rest would only have tried the door.
        for role, _, _ in VISITS:
            with house.client(role) as client:
                self.assertEqual(client.get("/api/v1/seats").status_code, 200)

    def visit(self, house: Served, role: str, addresses: str, examples: int) -> subprocess.CompletedProcess[str]:
        command = [
            *(sys.executable, "-m", "schemathesis.cli", "run", f"{house.address}/api/v1/openapi.json"),
            *("--header", f"Authorization: Bearer {house.tokens[role]}", "--output-sanitize", "true"),
            *("--checks", "not_a_server_error,status_code_conformance", "--phases", "coverage,fuzzing"),
            *("--seed", str(SEED), "--max-examples", str(examples), "--workers", "1", "--no-shrink"),
            *("--continue-on-failure", "--request-timeout", "60", "--warnings", "off"),
            *("--include-path-regex", f"^/api/v1/{addresses}"),
        ]
        env = {name: value for name, value in os.environ.items() if "proxy" not in name.lower()}
        with tempfile.TemporaryDirectory() as folder:  # what a generator remembers from run to run stays out
            return subprocess.run(
                command, cwd=Path(folder), env=env, capture_output=True, text=True, timeout=SECONDS, check=False
            )
