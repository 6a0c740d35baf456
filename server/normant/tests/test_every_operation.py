"""Every operation of the API, given what a generator makes of its own document: sound, unsound and strange."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from django.test import SimpleTestCase

from .served import Served

SEED = 14
SECONDS = 300  # at most, for all who ask together
# The outermost cases of each operation for who may most; generated ones besides. Who may least gets as far as the door.
EXAMPLES = {"administrator": 12, "editor": 3}


class EveryOperation(SimpleTestCase):
    """No server error, and no status that the document does not tell."""

    def test_holds(self) -> None:
        house = Served(
            "normant_every_operation", NORMANT_PATIENCE_SECONDS="0"
        )  # of its own: not much is left as it was
        self.addCleanup(house.stop)
        for role, examples in EXAMPLES.items():
            with self.subTest(role=role):
                self.visit(house, role, examples)

    def visit(self, house: Served, role: str, examples: int) -> None:
        command = [
            *(sys.executable, "-m", "schemathesis.cli", "run", f"{house.address}/api/v1/openapi.json"),
            *("--header", f"Authorization: Bearer {house.tokens[role]}", "--output-sanitize", "true"),
            *("--checks", "not_a_server_error,status_code_conformance", "--phases", "coverage,fuzzing"),
            *("--seed", str(SEED), "--max-examples", str(examples), "--workers", "2", "--no-shrink"),
            *("--continue-on-failure", "--request-timeout", "60", "--warnings", "off"),
        ]
        env = {name: value for name, value in os.environ.items() if "proxy" not in name.lower()}
        with tempfile.TemporaryDirectory() as folder:  # what a generator remembers from run to run stays out
            done = subprocess.run(
                command, cwd=Path(folder), env=env, capture_output=True, text=True, timeout=SECONDS, check=False
            )
        self.assertEqual(done.returncode, 0, done.stdout[-6000:] + done.stderr[-2000:])
        # Had a generated call withdrawn the token, the rest would only have tried the door.
        self.assertEqual(house.client(role).get("/api/v1/seats").status_code, 200)
