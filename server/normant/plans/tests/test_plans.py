"""Plans that are kept by name, opened again, and copied from a rollout."""

from typing import Any

from normant.accounts.permissions import Role
from normant.rollouts.tests.test_waves import Stage

from ..models import KeptPlan


class Plans(Stage):
    def keep(self, name: str = "Power everywhere", findings: list[int] | None = None, **terms: Any) -> Any:
        body = {"name": name, "findings": findings or self.findings(), "terms": {"in_wave": 2, **terms}}
        return self.post("plans", body)

    def test_a_kept_plan_tells_what_it_would_settle_now(self) -> None:
        plan = self.keep().json()
        self.assertEqual((plan["findings"], plan["settled"], plan["terms"]["in_wave"]), (self.findings(), 0, 2))
        self.start(canaries=False)
        self.end("pan-03")
        opened = self.house.client().get(f"/api/v1/plans/{plan['id']}").json()
        self.assertEqual((len(opened["findings"]), opened["settled"]), (3, 1))
        row = self.house.client().get("/api/v1/plans").json()["items"][0]
        self.assertEqual((row["seats"], row["readings"], row["off_norm"]), (4, 4, 3))

    def test_it_is_changed_and_forgotten(self) -> None:
        plan = self.keep().json()
        number, body = plan["id"], {"name": "Power of one", "findings": self.findings()[:1], "seen": plan["seen"]}
        change = self.house.client().put(f"/api/v1/plans/{number}", body, "application/json")
        self.assertEqual((change.json()["name"], change.json()["readings"]), ("Power of one", 1))
        again = self.house.client().put(f"/api/v1/plans/{number}", {**body, "name": "x"}, "application/json")
        self.assertEqual((again.status_code, again.json()["title"]), (409, "Changed meanwhile"))
        self.assertEqual(self.house.client().delete(f"/api/v1/plans/{number}").status_code, 204)
        self.assertFalse(KeptPlan.objects.exists())

    def test_a_name_is_one_plans(self) -> None:
        self.keep()
        self.assertEqual(self.keep().json()["title"], "Name taken")
        self.assertEqual(self.keep("  ").status_code, 422)
        self.assertEqual(self.keep("other", [10**6]).json()["title"], "Findings closed")
        self.assertEqual(self.post("plans", {"name": "x", "findings": self.findings()}, Role.VIEWER).status_code, 403)
        self.assertEqual(
            self.house.client()
            .put("/api/v1/plans/99", {"name": "x", "findings": self.findings(), "seen": ""}, "application/json")
            .status_code,
            404,
        )

    def test_an_earlier_rollout_is_planned_again_with_what_is_off_norm_by_now(self) -> None:
        rollout = self.start(canaries=False, in_wave=3)
        self.end("pan-03")
        again = self.house.client().get(f"/api/v1/rollouts/{rollout.pk}/again").json()
        self.assertEqual((again["findings"], again["settled"], again["terms"]["in_wave"]), (self.findings(), 1, 3))
        self.assertEqual(len(again["findings"]), 3)
