"""Whether corrections last, from the readings that seats handed in."""

import datetime as dt
from typing import Any

from django.utils import timezone

from normant.rollouts.jobs import advance_rollout
from normant.rollouts.models import Leg
from normant.seats.models import Reading
from normant.tests.house import survey

from .test_waves import Stage


class Stayed(Stage):
    def answer(self, query: str = "") -> Any:
        return self.house.client().get(f"/api/v1/stayed{query}").json()["items"]

    def test_who_changes_it_back_is_told(self) -> None:
        self.assertEqual(self.answer(), [])
        rollout = self.start(canaries=False)
        for name in ("pan-03", "pan-04"):
            self.end(name)
        self.house.send(survey(seat="pan-04", power__profile="balanced"), self.tokens["pan-04"])
        lasting = self.answer(f"?rollout={rollout.pk}")[0]
        self.assertEqual((lasting["title"], lasting["corrected"]), ("Power profile", 2))
        self.assertEqual([(b["seat"], b["times"], b["how"]) for b in lasting["back"]], [("pan-04", 1, "at the seat")])
        self.assertEqual(lasting["after"], [[1, 0, 0], [7, 0, 0], [30, 0, 0]])  # too young to tell
        self.assertEqual(self.answer("?rollout=0"), [])

    def test_after_a_week_it_is_counted(self) -> None:
        self.start(canaries=False)
        self.end("pan-03")
        past = timezone.now() - dt.timedelta(days=8)
        Leg.objects.filter(seat__name="pan-03").update(ended_at=past)
        own = Reading.objects.filter(seat__name="pan-03", setting="power.profile")
        own.exclude(until=None).delete()
        own.update(since=past)
        self.assertEqual(self.answer()[0]["after"], [[1, 1, 1], [7, 1, 1], [30, 0, 0]])

    def test_what_is_put_back_is_nobodys_doing(self) -> None:
        rollout = self.start(canaries=False)
        self.end("pan-03")
        advance_rollout(self.post(f"rollouts/{rollout.pk}/put-back", {"seats": ["pan-03"]}).json()["id"])
        self.house.send(survey(power__profile="balanced"))
        self.assertEqual(self.answer()[0]["back"], [])
