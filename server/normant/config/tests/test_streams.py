"""Who hears which news, from outside and by the rule itself."""

from collections.abc import Iterator
from unittest import TestCase

import httpx

from normant.accounts.permissions import ALLOWED, Role
from normant.config.shell.callers import Caller
from normant.config.shell.hub import News
from normant.config.shell.streams import may_hear, seconds_of
from normant.tests.served import PASSWORD, Served, served

TOPICS = [("seat", "pan-03"), ("seat", "pan-04"), ("planned", "pan-03"), ("planned", "pan-04"), ("rollout", "7")]
TOPICS += [("standard", "2"), ("errand", "1"), ("waiver", "1"), ("dialect", "corrow"), ("orders", "pan-03")]


class Rule(TestCase):
    def heard(self, role: Role, seat: str | None) -> list[tuple[str, str]]:
        listener = Caller("person 1", ALLOWED[role], seat)
        return [topic for topic in TOPICS if may_hear(listener, News(1, *topic))]

    def test_an_editor_hears_of_their_own_seat_alone(self) -> None:
        self.assertEqual(self.heard(Role.EDITOR, "pan-03"), [("seat", "pan-03"), ("planned", "pan-03")])
        self.assertEqual(self.heard(Role.EDITOR, ""), [])

    def test_all_others_hear_everything_but_what_is_for_agents_and_editors(self) -> None:
        expected = [topic for topic in TOPICS if topic[0] not in ("orders", "planned")]
        for role in set(Role) - {Role.EDITOR}:
            with self.subTest(role):
                self.assertEqual(self.heard(role, None), expected)

    def test_the_advice_to_read_anew_is_for_all(self) -> None:
        self.assertTrue(may_hear(Caller("person 1"), News(0, "everything", "")))

    def test_an_agent_waits_as_long_as_it_says(self) -> None:
        expected = {b"": 20, b"seconds=5": 5, b"seconds=900": 30, "seconds=\u00b2".encode(): 0, b"seconds=-1": 0}
        self.assertEqual({query: seconds_of(query) for query in expected}, expected)


class Stream(TestCase):
    house: Served

    @classmethod
    def setUpClass(cls) -> None:
        cls.house = served()

    def signed_in(self, name: str) -> httpx.Client:
        """A browser."""
        client = self.enterContext(self.house.client())
        client.get("/api/v1/session")
        headers = {"X-CSRFToken": client.cookies["csrftoken"]}
        given = {"name": name, "password": PASSWORD}
        self.assertEqual(client.post("/api/v1/session", json=given, headers=headers).status_code, 200)
        return client

    def lines(self, stream: httpx.Response) -> Iterator[str]:
        for line in stream.iter_lines():
            if line.startswith('data: {"topic'):
                yield line

    def notify(self, *subjects: str) -> None:
        calls = "; ".join(f"tell('seat', '{subject}')" for subject in subjects)
        self.house.python(f"from normant.common.events import tell; {calls}")

    def test_what_was_missed_goes_by_the_same_rule(self) -> None:
        with self.house.client("administrator").stream("GET", "/api/v1/events") as first:
            lines = first.iter_lines()
            epoch = next(line for line in lines if line.startswith("id: ")).removeprefix("id: ").partition("-")[0]
            self.notify("pan-04", "pan-03", "pan-09")
            numbers = [line for line in (next(lines) for _ in range(12)) if line.startswith("id: ")]
        last = int(numbers[-1].rpartition("-")[2])
        missed = {"Last-Event-ID": f"{epoch}-{last - 3}"}
        with self.house.client("editor").stream("GET", "/api/v1/events", headers=missed) as second:
            events = self.lines(second)
            self.assertEqual(next(events), 'data: {"topic":"seat","id":"pan-03"}')
            self.notify("pan-04", "pan-03")
            self.assertEqual(next(events), 'data: {"topic":"seat","id":"pan-03"}')

    def test_a_stream_ends_soon_after_its_person_signed_out(self) -> None:
        client = self.signed_in("viewer")
        with client.stream("GET", "/api/v1/events") as stream:
            answer = client.delete("/api/v1/session", headers={"X-CSRFToken": client.cookies["csrftoken"]})
            self.assertEqual(answer.status_code, 204)
            for number, _ in enumerate(stream.iter_lines()):
                self.assertLess(number, 10, "the stream goes on")

    def test_nobody_keeps_streams_without_end(self) -> None:
        with self.house.client("assistant") as client:
            streams = [self.enterContext(client.stream("GET", "/api/v1/events")).status_code for _ in range(17)]
        self.assertEqual((streams[:16], streams[16]), ([200] * 16, 429))
