"""Which orders a plan becomes: what is signed is read again here as the agent reads it."""

from typing import Any

from normant.findings.models import Finding
from normant.findings.services.publish import publish
from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout
from normant.tests.house import STANDARD, survey
from normant_core.orders.kinds import MoveStore, SetGpuPreference, SetPriority, parse_order

from .test_waves import Stage

RULES = """
[[layer.rule]]
setting = "power.process_priority"
want = "normal"

[[layer.rule]]
setting = "engine.system_preference"
want = "performance"
"""


class Kinds(Stage):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        text = STANDARD.replace('\n[[layer]]\nname = "Cutting', RULES + '\n[[layer]]\nname = "Cutting')
        publish(text, base=1, note="", user=None)
        body = survey()
        body["readings"] += [
            {"setting": "power.process_priority", "app": "corrow", "value": "high"},
            {"setting": "engine.system_preference", "app": "corrow", "value": "auto"},
        ]
        cls.house.send(body)

    def orders(self, *settings: str, **terms: bool) -> dict[str, Any]:
        findings = Finding.objects.open().filter(seat__name="pan-03", setting__in=settings)
        body: dict[str, Any] = {"findings": list(findings.values_list("pk", flat=True)), "terms": {"canaries": False}}
        body["terms"] |= terms
        seen = self.post("rollouts/plan", body).json()["digest"]
        number = self.post("rollouts", {**body, "seen": seen}).json()["id"]
        advance_rollout(number)
        return {o.kind: parse_order(bytes(o.body)).action for o in Order.objects.filter(leg__rollout=number)}

    def test_each_value_of_the_system_is_an_order_of_its_own(self) -> None:
        actions = self.orders("power.process_priority", "engine.system_preference")
        self.assertEqual(actions["set_priority"], SetPriority("corrow", "high", "normal"))
        self.assertEqual(actions["set_gpu_preference"], SetGpuPreference("corrow", "auto", "performance"))

    def test_a_store_moves_by_itself_and_the_rest_of_its_file_in_one_order(self) -> None:
        actions = self.orders("store.source_cache.path", "memory.held_back", "engine.effects")
        self.assertEqual(set(actions), {"move_store", "set_preference"})
        move = actions["move_store"]
        self.assertIsInstance(move, MoveStore)
        self.assertEqual((move.volume, move.change.native, move.remove_old), ("v1", "/fast/corrow/source_cache", False))
        self.assertEqual(len(actions["set_preference"].changes), 2)

    def test_the_old_folder_goes_only_where_the_terms_say_so(self) -> None:
        self.assertTrue(self.orders("store.source_cache.path", remove_old=True)["move_store"].remove_old)
