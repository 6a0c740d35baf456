"""Every operation of the API, given what a generator makes of its own document: sound, unsound and strange.

A quick walk, in every run: each operation once for each role, for each scope of a token and for nobody. A long one,
tagged `long` (`script/test --long`): hundreds of cases for each operation, against a real server.
"""

import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import Any

import requests
import schemathesis
from django.conf import settings as django_settings
from django.db import transaction
from django.test import Client, SimpleTestCase, TestCase, tag
from hypothesis import HealthCheck, Phase, given, settings

from normant.accounts.models import AccessToken
from normant.accounts.permissions import Role, Scope
from normant.config.management.commands.openapi import document

from .house import House
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
NOBODY = "nobody"
IN_PERSON = "an administrator who signed in"
CASES = 2  # of each operation in the quick walk: the first for everybody, the others for who may most


@cache
def documented() -> Any:
    """The document that is served, which `test_published` holds against the one that is committed."""
    return json.loads(document())


def generated() -> Iterator[tuple[Any, list[requests.PreparedRequest]]]:
    """Yield each operation with the requests that the generator makes of it, the same ones in every run."""
    for result in schemathesis.openapi.from_dict(documented()).get_all_operations():
        operation = result.ok()
        yield operation, [_prepared(case) for case in _cases(operation)]


def _cases(operation: Any) -> list[Any]:
    cases = list[Any]()

    @settings(
        max_examples=CASES,
        phases=[Phase.generate],
        database=None,
        derandomize=True,
        deadline=None,
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy())
    def collect(case: Any) -> None:
        cases.append(case)

    collect()
    return cases


def _prepared(case: Any) -> requests.PreparedRequest:
    return requests.Request(**case.as_transport_kwargs(base_url="http://testserver/")).prepare()


class QuickWalk(TestCase):
    """No server error, and no status that the document does not tell."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def headers(self) -> dict[str, dict[str, str]]:
        """What each kind of caller sends besides."""
        callers = {NOBODY: dict[str, str]()}
        for role in Role:
            callers[role.value] = {"authorization": f"Bearer {AccessToken.make(self.house.people[role], 'walk')}"}
        most = self.house.people[Role.ADMINISTRATOR]
        for scope in set(Scope) - {Scope.ALL}:
            callers[f"token to {scope.value}"] = {"authorization": f"Bearer {AccessToken.make(most, 'walk', scope)}"}
        browser = self.house.browser(Role.ADMINISTRATOR)
        session = browser.cookies[django_settings.SESSION_COOKIE_NAME].value
        callers[IN_PERSON] = {"cookie": f"{django_settings.SESSION_COOKIE_NAME}={session}"}
        return callers

    def test_every_operation_answers_everybody_as_it_is_documented(self) -> None:
        callers, asked = self.headers(), set[str]()
        for operation, prepared in generated():
            known = {int(status) for status in operation.definition.raw["responses"]}
            for number, request in enumerate(prepared):
                for caller, headers in callers.items() if number == 0 else [(IN_PERSON, None)]:
                    with self.subTest(f"{operation.label} for {caller}, case {number}"):
                        status = self.status_of(request, headers or callers[caller])
                        self.assertIn(status, known, request.body)
                        if status not in (401, 403):
                            asked.add(operation.label)
        operations = sum(map(len, documented()["paths"].values()))
        self.assertGreater(len(asked), 0.9 * operations, "hardly anybody got past the door")

    def status_of(self, request: requests.PreparedRequest, headers: dict[str, str]) -> int:
        """What is answered; whatever it did is taken back."""
        body = request.body or b""
        sent = {name: value for name, value in request.headers.items() if name.lower() not in ("content-length",)}
        with transaction.atomic():
            answer = Client(raise_request_exception=False).generic(
                request.method or "GET",
                request.path_url,
                body if isinstance(body, bytes) else body.encode("utf-8", "surrogatepass"),
                content_type=sent.pop("Content-Type", "application/octet-stream"),
                headers={**sent, **headers},
            )
            transaction.set_rollback(True)
        return answer.status_code


@tag("long")
class LongWalk(SimpleTestCase):
    """The same, with many more cases, against a server that is a process of its own."""

    def test_no_generated_request_is_a_fault_of_the_servers(self) -> None:
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
