import base64

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
from django.test import TestCase

from normant.accounts.permissions import Role
from normant.dialects.current import dialects
from normant.dialects.models import Dialect
from normant.dialects.services.keep_dialect import keep_dialect
from normant.orders.services.sign import public_key, sign_waiting
from normant.standards.current import current_judge
from normant.standards.models import Edition
from normant.tests.house import EXAMPLES, STANDARD, House
from normant_core.base.errors import DocumentError
from normant_core.dialects.dialect import signed_dialect

DIALECT = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8")


class Standards(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def test_the_edition_in_force_is_told_as_text_and_as_sentences(self) -> None:
        answer = self.house.client(Role.VIEWER).get("/api/v1/standard").json()
        self.assertEqual((answer["number"], answer["text"]), (1, STANDARD))
        sentences = [rule["sentence"] for layer in answer["layers"] for rule in layer["rules"]]
        self.assertIn("Power profile is performance", sentences)

    def test_every_edition_is_kept(self) -> None:
        Edition.objects.create(number=2, text=STANDARD.replace("Brinehouse", "Other"), note="renamed")
        viewer = self.house.client(Role.VIEWER)
        self.assertEqual([e["number"] for e in viewer.get("/api/v1/standard/editions").json()["items"]], [2, 1])
        self.assertEqual(viewer.get("/api/v1/standard/editions/1").json()["name"], "Brinehouse house standard")
        self.assertEqual(viewer.get("/api/v1/standard/editions/9").status_code, 404)

    def test_an_edition_is_compiled_once(self) -> None:
        first = current_judge()
        with self.assertNumQueries(1):
            self.assertIs(current_judge(), first)

    def test_a_house_without_a_standard_judges_nothing(self) -> None:
        Edition.objects.all().delete()
        self.assertIsNone(current_judge())
        self.assertEqual(self.house.send().json()["changed"], True)
        self.assertEqual(self.house.client().get("/api/v1/standard").status_code, 404)

    def test_a_dialect_is_replaced_whole_or_not_at_all(self) -> None:
        keep_dialect(DIALECT.replace(">=8,<9", ">=8,<10"), "test")
        self.assertEqual((Dialect.objects.count(), dialects()[0].versions), (1, ">=8,<10"))
        with self.assertRaises(DocumentError):
            keep_dialect(DIALECT.replace("memory.held_back", "memory.heldback"), "test")
        self.assertEqual(dialects()[0].versions, ">=8,<10")
        items = self.house.agent().get("/api/v1/agent/dialects").json()["items"]
        self.assertEqual(items, [], "no agent is shown what no worker signed")
        sign_waiting()
        [items] = self.house.agent().get("/api/v1/agent/dialects").json()["items"]
        signature = base64.b64decode(items["signature"])
        Ed25519PublicKey.from_public_bytes(public_key()).verify(signature, signed_dialect("corrow", items["text"]))
