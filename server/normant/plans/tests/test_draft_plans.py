"""Plans from the rules of an edition that nobody has published yet."""

from typing import Any

from normant.findings.jobs import reevaluate_seats
from normant.findings.models import Finding
from normant.findings.services.publish import publish
from normant.orders.models import Order
from normant.rollouts.tests.test_waves import NAMES, Stage
from normant.seats.models import Seat
from normant.tests.house import STANDARD

from ..models import KeptPlan

OTHER = STANDARD.replace('want = "performance"', 'want = "power-saver"')
assert OTHER != STANDARD


class DraftPlans(Stage):
    def planned(self, text: str = OTHER, **terms: Any) -> Any:
        return self.post("plans/draft", {"text": text, "terms": terms})

    def test_it_tells_what_each_seat_would_need_and_in_which_order(self) -> None:
        answer = self.planned(canaries=True).json()
        self.assertEqual([seat["seat"] for seat in answer["seats"]], list(NAMES))
        for seat in answer["seats"]:
            [change] = seat["changes"]
            self.assertEqual((change["before"], change["after"]), ("balanced", "power-saver"))
        self.assertIn("1 canary", answer["order"]["sentence"])
        self.assertFalse(Order.objects.exists())

    def test_what_both_editions_want_is_none_of_it(self) -> None:
        self.assertEqual(self.planned(STANDARD).json()["seats"], [])
        answer = self.post("plans/draft/keep", {"text": STANDARD, "name": "nothing"})
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "Nothing to do"))

    def test_a_text_with_faults_says_where(self) -> None:
        answer = self.planned(OTHER.replace('"power-saver"', '"fast"', 1))
        self.assertEqual(answer.status_code, 422)
        self.assertIn("power.profile", answer.content.decode())

    def test_kept_it_opens_with_what_the_published_edition_found(self) -> None:
        self.post("plans/draft/keep", {"text": OTHER, "name": "Save power", "terms": {"in_wave": 2}})
        kept_plan = KeptPlan.objects.get(name="Save power")
        self.assertEqual(kept_plan.places, [[name, "power.profile", ""] for name in NAMES])
        publish(OTHER, base=1, note="", user=None)
        reevaluate_seats(list(Seat.objects.values_list("pk", flat=True)))
        opened = self.house.client().get(f"/api/v1/plans/{kept_plan.pk}").json()
        wanted = Finding.objects.wanting().filter(setting="power.profile").values_list("pk", flat=True)
        self.assertEqual((opened["findings"], opened["settled"], opened["terms"]["in_wave"]), (sorted(wanted), 0, 2))
        plan = self.post("rollouts/plan", {"findings": opened["findings"]}).json()
        self.assertEqual({c["after"] for seat in plan["seats"] for c in seat["changes"]}, {"power-saver"})
