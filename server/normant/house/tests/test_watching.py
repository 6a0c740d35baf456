import datetime as dt

from django.test import Client, TestCase
from django.utils import timezone
from icalendar import Calendar
from prometheus_client.parser import text_string_to_metric_families

from normant.accounts.permissions import Role
from normant.findings.models import Finding, Waiver
from normant.tests.house import House


class Watching(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()
        cls.ends = timezone.now() + dt.timedelta(days=2)
        cls.waiver = Waiver.objects.create(setting="power.profile", seats=["pan-03"], reason="so", ends_at=cls.ends)

    def test_metrics_are_read_by_prometheus(self) -> None:
        Finding.objects.filter(setting="power.profile").update(waiver=self.waiver)
        text = self.house.client(Role.VIEWER).get("/metrics").content.decode()
        samples = {
            (s.name, *s.labels.values()): s.value for f in text_string_to_metric_families(text) for s in f.samples
        }
        self.assertEqual(samples["normant_seats", "here"], 1)
        self.assertEqual(samples["normant_findings_open", "should", "true"], 1)
        self.assertEqual(samples["normant_findings_open", "must", "false"], 3)
        self.assertEqual((samples["normant_waivers",], samples["normant_edition",]), (1, 1))

    def test_metrics_are_not_for_everybody(self) -> None:
        self.assertEqual(Client().get("/metrics").status_code, 401)
        self.assertEqual(self.house.client(Role.EDITOR).get("/metrics").status_code, 403)

    def test_a_calendar_shows_what_ends_until_the_password_changes(self) -> None:
        address = self.house.browser().get("/api/v1/calendar").json()["address"]
        events = Calendar.from_ical(Client().get(address).content).walk("VEVENT")
        self.assertEqual([str(e["summary"]) for e in events], ["Waiver ends: Power profile on pan-03"])
        self.assertEqual(events[0].decoded("dtstart"), self.ends.replace(microsecond=0))
        self.assertEqual(Client().get(address.replace(".ics", "x.ics")).status_code, 404)
        person = self.house.people[Role.SUPERVISOR]
        person.set_password("another")
        person.save()
        self.assertEqual(Client().get(address).status_code, 404)
