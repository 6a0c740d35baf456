import datetime as dt
import json
from typing import Any
from unittest.mock import patch

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.jobs import new_day, publish_due
from normant.findings.models import Finding
from normant.findings.services.draft import seen_draft
from normant.findings.services.follow import follow
from normant.findings.services.publish import publish
from normant.ledger.models import Entry
from normant.standards.models import Draft, Edition
from normant.tests.house import STANDARD, House
from normant.tests.options import with_options

OTHER = STANDARD.replace('want = "performance"', 'want = "balanced"')
HOUR = dt.timedelta(hours=1)
STRICT = """
format = "normant-standard/1"
name = "Strict"
[[layer]]
name = "All"
[[layer.rule]]
setting = "memory.held_back"
at_least = "60 GiB"
"""
LISTED = """
[[release]]
setting = "app.version"
app = "corrow"
version = "8.3.1"
standing = "approved"
until = {until}
[[release]]
setting = "app.version"
app = "corrow"
version = "8.4"
standing = "approved"
[[layer]]
name = "Builds"
[[layer.rule]]
setting = "app.version"
app = "corrow"
listed = "approved"
"""


class Drafts(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def ask(self, path: str, method: str = "post", *, second: bool = False, **body: Any) -> Any:
        sign_in = self.house.browser if path.endswith("/approve") else self.house.client
        client = sign_in(Role.ADMINISTRATOR if second else Role.SUPERVISOR)
        send = getattr(client, method)
        return send(f"/api/v1/standard/{path}", json.dumps(body, default=str), "application/json")

    def act(self, number: int, what: str = "", *, seen: str | None = None, **more: Any) -> Any:
        """Something done to a draft as it is now, or as it was seen."""
        now = seen or self.house.client().get(f"/api/v1/standard/drafts/{number}").json()["seen"]
        method = "post" if what else "put"
        return self.ask(f"drafts/{number}{what and '/'}{what}", method, seen=now, **more)

    def keep_draft(self, text: str = OTHER) -> int:
        return int(self.ask("drafts", text=text, base=1, note="quieter").json()["id"])

    def test_a_draft_is_kept_with_its_faults_changed_and_published(self) -> None:
        number = self.keep_draft("no TOML at all")
        self.assertEqual(self.act(number, "publish").status_code, 422)
        self.act(number, text=OTHER, note="now it is")
        answer = self.act(number, "publish").json()
        self.assertEqual((answer["edition"], Edition.objects.get(number=2).text), (2, OTHER))
        self.assertEqual(self.house.client().get("/api/v1/standard/drafts").json()["items"], [])
        again = self.act(number, "publish")
        self.assertEqual((again.status_code, again.json()["title"]), (409, "Ended"))

    @with_options(second_person=True)
    def test_where_the_house_asks_for_it_a_second_person_approves(self) -> None:
        number = self.keep_draft()
        for answer in (self.ask("publish", text=OTHER, base=1), self.act(number, "publish")):
            self.assertEqual(answer.json()["title"], "Needs a second person")
        self.assertEqual(self.act(number, "approve").json()["title"], "Your own")
        self.assertEqual(self.act(number, "approve", second=True).json()["approved_by"], "administrator")
        self.act(number, text=OTHER + "# one more thing", note="")
        self.assertIsNone(Draft.objects.get(pk=number).approved_by)
        self.act(number, "approve", second=True)
        self.assertEqual(self.act(number, "publish").json()["edition"], 2)

    def test_nothing_is_done_to_a_draft_that_is_another_than_was_read(self) -> None:
        number = self.keep_draft()
        read = seen_draft(Draft.objects.get(pk=number))
        self.act(number, text=OTHER + "# mine", note="")
        for what, more in (("approve", {"second": True}), ("publish", {}), ("drop", {}), ("", {"text": STANDARD})):
            with self.subTest(what):
                answer = self.act(number, what, seen=read, **more)
                self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Changed meanwhile"))
        self.assertEqual(Draft.objects.get(pk=number).text, OTHER + "# mine")

    def test_a_draft_is_published_at_its_time_or_says_why_not(self) -> None:
        number = self.keep_draft()
        self.assertEqual(self.act(number, "publish", at=timezone.now() - HOUR).json()["title"], "Too early")
        self.act(number, "publish", at=timezone.now() + HOUR)
        publish_due()
        self.assertEqual(Edition.objects.count(), 1)
        other = self.keep_draft(STANDARD + "# the same")
        Draft.objects.update(publish_at=timezone.now() - HOUR)
        publish_due()
        first, second = Draft.objects.get(pk=number), Draft.objects.get(pk=other)
        self.assertEqual(first.edition and first.edition.number, 2)
        self.assertIn("edition 2 was published by somebody else", second.problem)
        self.assertIsNone(second.publish_at)
        self.assertEqual(Entry.objects.first().action, "not published")  # type: ignore[union-attr]

    def test_a_dropped_draft_is_gone_from_the_list(self) -> None:
        self.act(self.keep_draft(), "drop")
        self.assertEqual(self.house.client().get("/api/v1/standard/drafts").json()["total"], 0)

    def test_editions_are_compared_in_sentences(self) -> None:
        publish(OTHER, base=1, note="", user=None)
        changes = self.house.client().get("/api/v1/standard/editions/2/changes").json()["items"]
        because = "should; Clocks that ramp up late drop the first frames of each playback."
        before, after = f"Power profile is performance ({because})", f"Power profile is balanced ({because})"
        self.assertEqual(changes, [{"layer": "Whole facility", "before": before, "after": after}])
        back = self.house.client().get("/api/v1/standard/editions/1/changes", {"since": 2}).json()["items"]
        self.assertEqual([(change["before"], change["after"]) for change in back], [(after, before)])
        self.assertEqual(self.house.client().get("/api/v1/standard/editions/9/changes").status_code, 404)

    def test_doubts_are_told_of_the_house_as_it_is(self) -> None:
        doubts = self.ask("lint", text=STANDARD).json()["items"]
        self.assertIn(("no-fix", 13), [(doubt["code"], doubt["line"]) for doubt in doubts])
        self.assertEqual(
            self.house.client().get("/api/v1/standard").json()["folklore"], "8 of 8 rules rest on no evidence."
        )

    def test_a_rule_that_a_seat_contradicts_for_weeks_and_does_well_is_told(self) -> None:
        publish(STRICT, base=1, note="", user=None)
        follow()
        ask = self.house.client().get
        self.assertEqual(ask("/api/v1/standard/contradicted").json()["items"], [])
        Finding.objects.open().update(opened_at=timezone.now() - dt.timedelta(days=15))
        rules = ask("/api/v1/standard/contradicted").json()["items"]
        self.assertEqual([(rule["at"], rule["seats"]) for rule in rules], [([0, 0], ["pan-03"])])
        self.assertIn("pan-03 does well against it", rules[0]["sentence"])

    def test_a_build_that_counts_until_today_is_off_norm_tomorrow(self) -> None:
        today = timezone.localdate()
        publish(STANDARD + LISTED.format(until=today.isoformat()), base=1, note="", user=None)
        follow()
        findings = Finding.objects.open().filter(setting="app.version", app="corrow")
        before = findings.count()
        with patch("django.utils.timezone.localdate", return_value=today + dt.timedelta(days=1)):
            new_day()
        self.assertEqual((before, [f.verdict["norm"]["values"] for f in findings]), (0, [["8.4"]]))
