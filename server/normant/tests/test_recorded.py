"""What earlier versions wrote is read: messages, archives, ledgers, documents. See tests/recorded/README.md."""

import hashlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role
from normant.seats.models import Seat
from normant_core.base.chain import read_ledger, verified
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders import kinds
from normant_core.orders.kinds import Order, Progress, Receipt, Refusal, SignedOrder
from normant_core.seat.survey import Survey
from normant_core.standard.parse import parse_published

from .client import CheckedClient

RECORDED = sorted(
    path for path in (Path(__file__).resolve().parents[3] / "tests" / "recorded").iterdir() if path.is_dir()
)
MESSAGES: dict[str, type[Any]] = {"receipt": Receipt, "progress": Progress, "refusal": Refusal, "survey": Survey}


class Bytes(SimpleTestCase):
    """The bytes of every recording."""

    def each(self, name: str) -> Iterator[Path]:
        for recording in RECORDED:
            for path in sorted(recording.glob(name)):
                with self.subTest(f"{recording.name}: {path.name}"):
                    yield path

    def test_there_are_recordings(self) -> None:
        self.assertTrue(RECORDED)

    def test_every_message_is_read_and_written_as_it_was(self) -> None:
        for path in self.each("messages.ndjson"):
            lines = [json.loads(line) for line in path.read_text("utf-8").splitlines()]
            for line in lines:
                with self.subTest(line.get("kind", line["type"])):
                    self.check(line, path)
            self.assertEqual({line["type"] for line in lines}, {*MESSAGES, "order"})

    def check(self, line: dict[str, str], path: Path) -> None:
        raw = line["bytes"].encode()
        if line["type"] != "order":
            self.assertEqual(msgspec.json.encode(msgspec.json.decode(raw, type=MESSAGES[line["type"]])), raw)
            return
        signed = msgspec.json.decode(raw, type=SignedOrder)
        key = json.loads((path.parent / "state.json").read_text("utf-8"))["order_key"]
        Ed25519PublicKey.from_public_bytes(bytes.fromhex(key)).verify(signed.signature, signed.order)
        order = msgspec.json.decode(signed.order, type=Order)
        self.assertEqual(order.action.__struct_config__.tag, line["kind"])
        self.assertEqual(msgspec.json.encode(order), signed.order)

    def test_the_present_version_has_every_kind_of_order_that_was_recorded(self) -> None:
        known = {action.__struct_config__.tag for action in kinds.Action.__args__}
        for path in self.each("messages.ndjson"):
            recorded = {json.loads(line).get("kind") for line in path.read_text("utf-8").splitlines()} - {None}
            self.assertLessEqual(recorded, known)

    def test_the_chain_of_every_ledger_is_whole_and_holds_its_report(self) -> None:
        for path in self.each("ledger.ndjson"):
            entries = list(read_ledger(path.read_bytes().splitlines(), str(path)))
            self.assertEqual(list(verified(entries, None)), [])
            report = hashlib.sha256((path.parent / "report.json").read_bytes()).hexdigest()
            self.assertIn(report, {entry.detail.get("report") for entry in entries})

    def test_every_standard_and_dialect_is_read(self) -> None:
        for path in self.each("standard.toml"):
            self.assertTrue(parse_published(path.read_text("utf-8"), path.name).rules)
        for path in self.each("*.dialect.toml"):
            self.assertTrue(parse_dialect(path.read_text("utf-8"), path.name).file)


class Archives(TestCase):
    def test_every_archive_is_taken_in_by_an_empty_house(self) -> None:
        for recording in RECORDED:
            with self.subTest(recording.name):
                self.take_in(recording / "house.zip")

    def take_in(self, path: Path) -> None:
        person = User.objects.create_user("administrator", role=Role.ADMINISTRATOR.value)
        client = CheckedClient(headers={"Authorization": f"Bearer {AccessToken.make(person, 'recorded')}"})
        answer = client.post("/api/v1/house/archive", {"archive": SimpleUploadedFile("house.zip", path.read_bytes())})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(Seat.objects.count(), 28)
