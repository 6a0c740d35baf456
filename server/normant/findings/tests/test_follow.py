from typing import Any

import msgspec
from django.test import TestCase

from normant.findings.models import Finding, Waiver
from normant.findings.services.evaluate import evaluate
from normant.findings.services.follow import follow
from normant.findings.services.publish import publish
from normant.seats.models import Seat
from normant.standards.current import current_judge
from normant.standards.models import Edition
from normant.tests.house import STANDARD, House, survey
from normant_core.judging.groups import cause_key
from normant_core.judging.judge import Verdict

STRICTER = STANDARD.replace('at_most = "1/2"', 'at_most = "1/4"').replace(
    'setting = "power.profile"\nwant = "performance"', 'setting = "power.profile"\nwant = "balanced"'
)


class Following(TestCase):
    """By columns the house ends as it does seat by seat."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()
        _, token = cls.house.enrolled("pan-04")
        cls.house.send(survey(seat="pan-04", power__profile="performance", memory__held_back=2**34), token)
        fields: dict[str, Any] = {"setting": "memory.preview_pool", "seats": ["pan-04"], "reason": "so"}
        Waiver.objects.create(**fields, until_production="The Salt Ledger")

    def state(self) -> list[Any]:
        findings = Finding.objects.open().order_by("seat__name", "setting", "app")
        rows = findings.values_list("seat__name", "setting", "app", "severity", "waiver", "verdict")
        return [[*rows], [*Seat.objects.order_by("name").values_list("name", "levels", "off_norm")]]

    def one_by_one(self) -> list[Any]:
        judge = current_judge()
        assert judge
        for seat in Seat.objects.all():
            evaluate(seat, judge)
        return self.state()

    def test_every_finding_level_and_count_is_as_seat_by_seat(self) -> None:
        follow()
        self.assertEqual(self.state(), self.one_by_one())
        publish(STRICTER, base=1, note="", user=None)
        follow()
        self.assertEqual(self.state(), self.one_by_one())
        self.assertEqual({f.opened_by for f in Finding.objects.open().filter(setting="power.profile")}, {"standard"})
        self.assertEqual([f.seat.name for f in Finding.objects.closed()], ["pan-03"])
        keys = {(f.cause, cause_key(msgspec.convert(f.verdict, Verdict))) for f in Finding.objects.all()}
        self.assertTrue(keys and all(stored == made for stored, made in keys), keys)
        edition = Edition.objects.get(number=2)
        self.assertEqual((edition.judged, edition.of), (2, 2))
        self.assertIsNotNone(edition.followed_at)

    def test_run_twice_it_does_nothing(self) -> None:
        follow()
        with self.assertNumQueries(1):
            follow()

    def test_a_seat_that_changed_after_it_was_known_is_judged_by_what_it_is_now(self) -> None:
        Seat.objects.filter(name="pan-03").update(levels=[])
        self.house.send(survey(minutes=1, power__profile="balanced", playback__scale="1/4"))
        publish(STRICTER, base=1, note="", user=None)
        follow()
        self.assertEqual(self.state(), self.one_by_one())
        self.assertFalse(Finding.objects.open().filter(seat__name="pan-03", setting="playback.scale").exists())
