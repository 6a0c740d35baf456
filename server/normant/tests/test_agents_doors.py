"""The agents' doors, which no document describes to a generator: sound bodies in which one value is strange."""

import copy
import json
from collections.abc import Iterator
from typing import Any

import httpx
from django.test import SimpleTestCase

from .house import survey
from .served import Served

Step = str | int
STRANGE: tuple[Any, ...] = (
    *(None, -1, 2**63, 10**400, float("inf"), float("nan"), "", "\0", "\ud800", "x" * 5_000, "9" * 400),
    *("0001-01-01T00:00:00+15:59", {}, {"\0": 1}, json.loads("[" * 400 + "]" * 400)),
)
SURVEY = survey(minutes=-1)
RESULT = {"setting": "power.profile", "outcome": "done", "before": "a", "after": "b", "value": "b", "message": "m"}
LISTED = {"folder": "/x", "items": [{"path": "a", "size": 1, "used_at": "2026-03-03T09:00:00Z"}], "count": 1}
RECEIPT = {
    "order": "{order}",
    "outcome": "done",
    "results": [RESULT],
    "message": "m",
    "exact": True,
    "files": {"a": "YQ=="},
    "listed": {**LISTED, "size": 1, "unused": 1, "unused_size": 1},
    "measured": [1.5],
    "at": "2026-03-03T09:00:00Z",
}
SOUND: dict[str, Any] = {
    "survey": {
        **SURVEY,
        "readings": sorted(SURVEY["readings"], key=lambda reading: reading["setting"] != "memory.held_back"),
    },
    "orders/{order}/receipt": RECEIPT,
    "orders/{order}/progress": {"step": "waiting", "message": "m"},
    "refusals": {"order": "{order}", "digest": "0" * 64, "why": "w"},
    "enrol": {"code": "k7qm-k7qm-k7qm-k7qm", "version": "1"},
}


def places(value: Any, path: tuple[Step, ...] = ()) -> Iterator[tuple[Step, ...]]:
    """Where something stands in a document; of a list, in its first entry alone."""
    yield path
    steps = value.items() if isinstance(value, dict) else enumerate(value[:1]) if isinstance(value, list) else ()
    for step, inner in steps:
        yield from places(inner, (*path, step))


def changed(value: Any, path: tuple[Step, ...], other: Any) -> Any:
    """The document with another value in that place."""
    if not path:
        return other
    whole = inner = copy.deepcopy(value)
    for step in path[:-1]:
        inner = inner[step]
    inner[path[-1]] = other
    return whole


class AgentsDoors(SimpleTestCase):
    house: Served
    agent: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.house = Served("normant_agents_doors", NORMANT_PATIENCE_SECONDS="0")
        cls.addClassCleanup(cls.house.stop)
        cls.agent = cls.enterClassContext(cls.house.client("agent"))

    def post(self, door: str, body: Any) -> httpx.Response:
        order = "00000000-0000-4000-8000-000000000000"
        raw = json.dumps(body).replace("{order}", order)
        path = f"/api/v1/agent/{door.replace('{order}', order)}"
        return self.agent.post(path, content=raw, headers={"Content-Type": "application/json"})

    def test_what_is_sound_is_taken(self) -> None:
        """Or the strange ones would only show that everything is refused."""
        statuses = {door: self.post(door, body).status_code for door, body in SOUND.items()}
        self.assertEqual(list(statuses.values()), [200, 404, 404, 204, 403], statuses)

    def test_no_strange_value_is_a_fault_of_the_servers(self) -> None:
        for door, body in SOUND.items():
            for path in places(body):
                for strange in STRANGE:
                    with self.subTest(f"{door} {path} {str(strange)[:20]!r}"):
                        answer = self.post(door, changed(body, path, strange))
                        self.assertLess(answer.status_code, 500, answer.text)

    def test_no_strange_address_is_one(self) -> None:
        for door in ("wait?seconds={}", "packages/{}", "templates/{}", "orders/{}/progress"):
            for strange in ("%00", "²", "%ff", "9" * 3_000, "..%2f..%2fetc", "-1", "1e9", "%F0%9F%92%A9"):
                with self.subTest(f"{door} {strange[:9]}"):
                    method = "POST" if "orders" in door else "GET"
                    answer = self.agent.request(method, f"/api/v1/agent/{door.format(strange)}")
                    self.assertLess(answer.status_code, 500, answer.text)
