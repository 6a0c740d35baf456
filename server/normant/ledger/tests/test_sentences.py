"""The ledger in sentences, and chosen by who, what, seat and day."""

import ast
import datetime as dt
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.ledger.sentences import acts, sentence_of
from normant.ledger.services.record import record
from normant.tests.house import House
from normant_core.orders.kinds import Order

SERVER = Path(__file__).resolve().parents[2]


def recorded() -> Iterator[str]:
    """Every act that stands in a call of `record`."""
    for path in SERVER.rglob("*.py"):
        if "tests" in path.parts:
            continue
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "record":
                match node.args:
                    case [_, ast.Constant(value=str(act)), *_]:
                        yield act


class Sentences(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def entries(self, **wanted: Any) -> list[dict[str, Any]]:
        items: list[dict[str, Any]] = self.house.client(Role.VIEWER).get("/api/v1/ledger", wanted).json()["items"]
        return items

    def test_every_act_has_its_words(self) -> None:
        kinds = {kind.__struct_config__.tag for kind in Order.__annotations__["action"].__args__}
        self.assertGreater(len(kinds), 10)
        self.assertEqual(({*recorded()} | kinds - {"rehearse"}) - set(acts()), set())

    def test_they_say_who_did_what_and_on_which_seats(self) -> None:
        started = {"seats": ["pan-03", "pan-04", "pan-05"], "title": "x"}
        self.assertEqual(sentence_of("kim", "start rollout", "rollout 3", started), "kim started rollout 3 on 3 seats")
        self.assertEqual(sentence_of("kim", "go ahead", "rollout 3", {"seat": "a"}), "kim continued rollout 3 on a")
        self.assertEqual(sentence_of("x", "what_is_new", "it", {}), "x what is new: it")

    def test_entries_are_chosen_by_who_what_seat_and_day(self) -> None:
        record("kim", "halt rollout", "rollout 1", reason="x")
        record("kim", "start rollout", "rollout 2", seats=["pan-03", "pan-09"])
        record("lee", "go ahead", "rollout 2", seat="pan-09")
        record("lee", "survey now", "pan-09")
        acts_of = lambda **wanted: [entry["action"] for entry in self.entries(**wanted)]  # noqa: E731
        self.assertEqual(acts_of(actor="kim"), ["start rollout", "halt rollout"])
        self.assertEqual(acts_of(action="halt rollout"), ["halt rollout"])
        self.assertEqual(acts_of(seat="pan-09"), ["survey now", "go ahead", "start rollout"])
        self.assertEqual(acts_of(actor="lee", seat="pan-09", action="go ahead"), ["go ahead"])
        today = timezone.localdate()
        self.assertIn("halt rollout", acts_of(day=today.isoformat()))
        self.assertEqual(acts_of(day=(today - dt.timedelta(days=1)).isoformat()), [])
        names = self.house.client(Role.VIEWER).get("/api/v1/ledger/names").json()
        self.assertLessEqual({"kim", "lee"}, {*names["actors"]})

    def test_what_is_no_day_or_too_long_is_refused(self) -> None:
        for wanted in ({"day": "yesterday"}, {"actor": "x" * 151}, {"day": "9999-99-99"}):
            self.assertEqual(self.house.client().get("/api/v1/ledger", wanted).status_code, 422)
        self.assertEqual(self.house.client(Role.EDITOR).get("/api/v1/ledger/names").status_code, 403)
