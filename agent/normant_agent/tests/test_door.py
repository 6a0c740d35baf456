"""What an agent takes from the wire: addresses, certificates, and how much."""

import hashlib
import tempfile
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

import httpx

from normant_agent.door import Door, check_address, enrol
from normant_agent.errors import DoorError, HostError
from normant_agent.identity import Identity

KNOWN = Identity("http://127.0.0.1:9", "pan-03", "t", b"k" * 32)


class Addresses(TestCase):
    def test_a_token_goes_nowhere_in_plain_text_but_to_this_machine(self) -> None:
        for server in ("https://house.example", "http://127.0.0.1:8400", "http://localhost", "http://[::1]:8400"):
            check_address(server)
        for server in (
            "http://house.example",
            "http://10.0.0.5",
            "http://127.0.0.1.evil.example",
            "ftp://x",
            "house",
            "http://[::1",
        ):
            with self.subTest(server), self.assertRaises(DoorError):
                check_address(server)
            with self.assertRaises(DoorError):
                enrol(server, "code")

    def test_certificates_that_are_none_are_told(self) -> None:
        with tempfile.NamedTemporaryFile() as file, self.assertRaisesRegex(DoorError, "cannot be used as certificates"):
            enrol("https://127.0.0.1:9", "code", ca=file.name)


class Fetching(TestCase):
    def fetch(self, sent: bytes, *, named: bytes, most: int) -> Path:
        """Where it was kept."""
        self.count = 0

        def pieces() -> Iterator[bytes]:
            for place in range(0, len(sent), 1000):
                self.count += 1
                yield sent[place : place + 1000]

        answer = httpx.MockTransport(lambda request: httpx.Response(200, content=pieces()))
        path = Path(tempfile.mkdtemp()) / "kept"
        Door(KNOWN, transport=answer).fetch("packages", hashlib.sha256(named).hexdigest(), path, most)
        return path

    def test_what_was_named_is_kept(self) -> None:
        self.assertEqual(self.fetch(b"x" * 5000, named=b"x" * 5000, most=5000).read_bytes(), b"x" * 5000)

    def test_more_than_was_said_is_given_up_on_the_way(self) -> None:
        with self.assertRaisesRegex(HostError, "more than"):
            self.fetch(b"x" * 10**6, named=b"x" * 10**6, most=3000)
        self.assertLess(self.count, 10)

    def test_something_else_is_not_kept(self) -> None:
        with self.assertRaisesRegex(HostError, "is not"):
            self.fetch(b"y" * 5000, named=b"x" * 5000, most=9000)
