import datetime as dt
import json
import socket
from typing import Any
from unittest.mock import patch

from django.core import mail
from django.db.models import F
from django.test import TestCase
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob
from standardwebhooks import Webhook

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role, Scope
from normant.common.reach import asked, place_of
from normant.config.options import Mail
from normant.findings.jobs import reevaluate_seats
from normant.findings.models import Finding
from normant.notices.models import Choice, Delivery, Hook, SentNotice
from normant.notices.services.deliver import MOST_TRIES, NotDelivered, deliver, send_code
from normant.notices.services.tell import send_digests, tell_musts, tell_person
from normant.seats.models import Presence, Seat
from normant.stores.models import VolumeNow
from normant.tests.client import CheckedClient
from normant.tests.house import House, survey
from normant.tests.options import with_options
from normant.tests.receiver import receiver
from normant_core.words.notice import TEST, Notice

CHOSEN = {"mail": "sal@brinehouse.example", "at_once": True, "digest": True, "digest_hour": 0, "rooms": []}


@with_options(mail=Mail(folder="letters"), webhook_hosts=("127.0.0.1",), address="https://n.example")
class Notices(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()
        reevaluate_seats([cls.house.seat.pk])

    def call(self, method: str, path: str, role: Role = Role.SUPERVISOR, **body: Any) -> Any:
        client = self.house.client(role) if method == "GET" else self.house.browser(role)
        return client.generic(method, f"/api/v1/notices{path}", json.dumps(body), content_type="application/json")

    def choose(self, role: Role = Role.SUPERVISOR, **more: Any) -> Any:
        answer = self.call("PUT", "/choice", role, **{**CHOSEN, **more})
        Choice.objects.exclude(mail_asked="").update(mail=F("mail_asked"), mail_asked="")  # as the letter's code does
        return answer

    def send_all(self) -> None:
        """As the worker does it."""
        for delivery in Delivery.objects.filter(state="waiting"):
            deliver(delivery.pk)

    def subjects(self) -> list[str]:
        return [letter.subject for letter in mail.outbox]

    def test_what_a_seat_says_neither_breaks_a_subject_nor_makes_it_endless(self) -> None:
        self.choose()
        user = User.objects.get(role=Role.SUPERVISOR)
        tell_person(user, CHOSEN["mail"], Notice(TEST, "Cache is /a\r\nBcc: x@y.example" + "/b" * 4000, "So it is."))
        self.send_all()
        subject = self.subjects()[-1]
        self.assertNotIn("\n", subject)
        self.assertLess(len(subject), 320)
        self.assertEqual([delivery.state for delivery in Delivery.objects.all()], ["sent"])

    def test_new_musts_are_told_once_in_one_letter_to_those_who_chose_it(self) -> None:
        self.choose()
        self.choose(Role.VIEWER, mail="v@brinehouse.example", at_once=False)
        self.assertEqual([tell_musts(), tell_musts()], [1, 0])
        self.send_all()
        self.send_all()
        letter = mail.outbox[0]
        self.assertEqual((len(mail.outbox), letter.to), (1, ["sal@brinehouse.example"]))
        self.assertRegex(letter.subject, "^Normant: [234] critical findings on pan-03$")
        self.assertIn("Correction: ", letter.body)
        self.assertIn("https://n.example", letter.body)
        self.assertFalse(Finding.objects.to_tell().exists())

    def test_what_is_waived_or_elsewhere_is_not_told(self) -> None:
        self.choose()
        Choice.objects.update(rooms=["Kiln"])
        self.assertEqual(tell_musts(), 0)
        count = SentNotice.objects.count()
        Choice.objects.update(rooms=["Pan House"])
        Finding.objects.update(told_at=None, severity="advise")
        self.assertEqual((tell_musts(), SentNotice.objects.count()), (0, count))

    def test_what_comes_and_goes_is_told_once_and_not_every_night(self) -> None:
        now, finding = timezone.now(), Finding.objects.to_tell()[0]
        Finding.objects.to_tell().exclude(pk=finding.pk).update(told_at=now)
        for night in range(1, 6):
            opened = now - dt.timedelta(days=night)
            copy = Finding.objects.get(pk=finding.pk)
            copy.pk, copy.opened_at, copy.told_at = None, opened, opened
            copy.closed_at, copy.closed_by = opened + dt.timedelta(hours=9), "theirs"
            copy.save()
        self.choose()
        self.assertEqual((tell_musts(), Finding.objects.to_tell().count()), (0, 0))

    def test_somebody_who_may_no_longer_see_the_house_is_told_nothing(self) -> None:
        self.choose()
        User.objects.filter(role=Role.SUPERVISOR).update(is_active=False)
        self.assertEqual((tell_musts(), send_digests()), (0, 0))

    def test_the_digest_goes_once_a_day_from_its_hour_on(self) -> None:
        self.choose()
        self.assertEqual([send_digests(), send_digests()], [1, 0])
        self.send_all()
        self.assertRegex(self.subjects()[0], r"^Normant: \d+ decisions? needed$")
        self.assertIn("went off norm", mail.outbox[0].body)
        Choice.objects.update(digest_sent_on=timezone.localdate() - dt.timedelta(days=1), digest_hour=23)
        self.assertEqual(send_digests(), int(timezone.localtime().hour == 23))

    def test_the_digest_says_which_volume_fills(self) -> None:
        self.choose()
        soon, seat = timezone.now() + dt.timedelta(days=3), Seat.objects.get(name="pan-03")
        VolumeNow.objects.create(
            seat=seat, volume="v1", mount="/fast", capacity=10, free=1, at=timezone.now(), per_day=1e9,
            full_on=soon, first=soon, last=soon,
        )  # fmt: skip
        self.assertEqual(send_digests(), 1)
        self.send_all()
        self.assertIn("/fast on pan-03 fills up within a week", mail.outbox[0].body)

    def test_a_house_that_is_not_judged_yet_has_no_digest(self) -> None:
        self.choose()
        Presence.objects.update(unjudged_since=timezone.now() - dt.timedelta(hours=1))
        self.assertEqual(send_digests(), 0)
        Presence.objects.update(unjudged_since=timezone.now())
        self.assertEqual(send_digests(), 1)

    def test_a_digest_is_sent_in_the_minutes_after_the_clock_went_forward(self) -> None:
        self.choose()
        moment = dt.datetime(2027, 3, 28, 1, 0, 30, tzinfo=dt.UTC)  # 03:00:30 in Berlin; at 02:00 it became 03:00
        Presence.objects.update(unjudged_since=moment)
        with self.settings(TIME_ZONE="Europe/Berlin"), patch("django.utils.timezone.now", return_value=moment):
            self.assertEqual(send_digests(), 1)

    def test_a_webhook_is_signed_so_that_its_receiver_can_prove_it(self) -> None:
        with receiver() as (address, got):
            made = self.call("POST", "/hooks", address=address).json()
            self.call("POST", "/try")
            self.send_all()
        headers, body = got[0]
        payload = Webhook(made["secret"]).verify(body, headers)
        self.assertEqual((payload["type"], payload["data"]["subject"]), ("notice.test", "Test notification"))
        with self.assertRaises(Exception):  # noqa: B017 - any refusal will do
            Webhook(made["secret"]).verify(body.replace(b"test", b"best"), headers)
        self.assertEqual(self.call("GET", "/choice").json()["hooks"][0]["secret"], "")

    def test_what_does_not_arrive_is_tried_again_under_the_same_name_and_then_given_up(self) -> None:
        with receiver(503) as (address, got):
            self.call("POST", "/hooks", address=address)
            self.call("POST", "/try")
            for _ in range(MOST_TRIES - 1):
                with self.assertRaisesMessage(NotDelivered, "it answered 503"):
                    self.send_all()
            self.send_all()
        self.assertEqual(len({headers["webhook-id"] for headers, _ in got}), 1)
        delivery = Delivery.objects.get()
        self.assertEqual((delivery.state, delivery.tries, len(got)), ("failed", MOST_TRIES, MOST_TRIES))

    def test_redirects_are_not_followed_and_410_ends_a_webhook(self) -> None:
        for status, state, fault in ((302, "waiting", "it answered 302"), (410, "failed", "unsubscribed")):
            with self.subTest(status), receiver(status) as (address, got):
                self.call("POST", "/hooks", address=address)
                self.call("POST", "/try")
                delivery = Delivery.objects.latest("pk")
                if state == "waiting":
                    self.assertRaises(NotDelivered, deliver, delivery.pk)
                else:
                    deliver(delivery.pk)
                delivery.refresh_from_db()
                self.assertEqual((delivery.state, len(got)), (state, 1))
                self.assertIn(fault, delivery.fault)
                self.assertEqual(Hook.objects.filter(gone_at=None).count(), int(status != 410))
                Hook.objects.all().delete()
                SentNotice.objects.all().delete()

    def test_a_house_without_mail_says_so_on_the_delivery(self) -> None:
        self.choose()
        with with_options(mail=Mail()):
            self.call("POST", "/try")
            self.assertRaisesMessage(NotDelivered, "NORMANT_MAIL is not set", self.send_all)
        self.assertEqual(mail.outbox, [])

    def test_what_cannot_be_chosen_is_refused_and_nothing_is_kept(self) -> None:
        for method, path, body, title in (
            ("PUT", "/choice", {**CHOSEN, "mail": "sal at home"}, "No mail address"),
            ("PUT", "/choice", {**CHOSEN, "mail": "a@b.example\nBcc: c@d.example"}, "No mail address"),
            ("PUT", "/choice", {**CHOSEN, "rooms": ["Pan Haus"]}, "No such room"),
            ("PUT", "/choice", {**CHOSEN, "digest_hour": 24}, "Not as expected"),
            ("POST", "/hooks", {"address": "gopher://127.0.0.1/x"}, "Not reached from here"),
            ("POST", "/hooks", {"address": "http://me:pw@127.0.0.1/x"}, "Not reached from here"),
            ("POST", "/hooks", {"address": "http://[::1"}, "Not reached from here"),
            ("POST", "/hooks", {"address": "http://127.0.0.1/x\r\nHost: y"}, "Not reached from here"),
            ("POST", "/hooks", {"address": f"http://{'a' * 64}.example/"}, "Not reached from here"),
            ("POST", "/hooks", {"address": "http://127.0.0.1:99999/"}, "Not reached from here"),
            ("POST", "/hooks", {"address": "http://elsewhere.example/"}, "Not reached from here"),
            ("POST", "/try", {}, "No way to tell you"),
            ("DELETE", "/hooks/1", {}, "No such webhook"),
        ):
            with self.subTest(body):
                answer = self.call(method, path, **body)
                self.assertEqual(answer.json()["title"], title)
        self.assertFalse(Choice.objects.exists() or Hook.objects.exists() or SentNotice.objects.exists())

    def test_an_address_is_written_to_once_its_code_came_back(self) -> None:
        with patch("normant.notices.services.choose.secrets.randbelow", return_value=1234):
            answer = self.call("PUT", "/choice", **CHOSEN).json()
        self.assertEqual((answer["mail"], answer["mail_asked"]), (None, CHOSEN["mail"]))
        self.assertEqual(tell_musts(), 0)
        send_code(answer["mail_asked"], "00001234")
        self.assertIn("00001234", mail.outbox.pop().body)
        self.assertEqual(self.call("POST", "/code").status_code, 429)
        self.assertEqual(self.call("POST", "/confirm", code="00009999").json()["title"], "Not the code")
        self.assertEqual(self.call("POST", "/confirm", Role.VIEWER, code="00001234").status_code, 409)
        self.assertEqual(self.call("POST", "/confirm", code="0000 1234").json()["mail"], CHOSEN["mail"])
        self.assertEqual(self.call("PUT", "/choice", **CHOSEN).json()["mail"], CHOSEN["mail"])

    def test_a_code_is_not_guessed(self) -> None:
        with patch("normant.notices.services.choose.secrets.randbelow", return_value=1234):
            self.call("PUT", "/choice", **CHOSEN)
        for _ in range(5):
            self.call("POST", "/confirm", code="1")
        self.assertEqual(self.call("POST", "/confirm", code="00001234").json()["title"], "Not the code")

    def test_a_failure_that_nobody_foresaw_is_a_try_and_is_told(self) -> None:
        self.choose()
        self.call("POST", "/try")
        with (
            patch("django.core.mail.EmailMessage.send", side_effect=RuntimeError("x")),
            self.assertRaises(NotDelivered),
        ):
            self.send_all()
        delivery = Delivery.objects.get()
        self.assertEqual((delivery.tries, delivery.state), (1, "waiting"))
        self.assertIn("sending failed: RuntimeError", delivery.fault)

    def test_what_was_checked_is_what_is_spoken_to(self) -> None:
        """A name service that answers otherwise the second time leads nowhere else."""
        with receiver() as (address, came):
            port = int(address.rpartition(":")[2].partition("/")[0])
            there, asked_for = socket.getaddrinfo, list[str]()

            def look_up(host: str, *more: Any, **others: Any) -> Any:
                asked_for.append(host)
                return there("127.0.0.1" if host == "hook.house.example" else host, *more, **others)

            with patch("normant.common.reach.socket.getaddrinfo", look_up):
                place = place_of(f"http://hook.house.example:{port}/x", ("hook.house.example",), "X", listed=True)
                self.assertLess(asked(place, "POST", headers={}, content=b"{}").status, 300)
            self.assertEqual(asked_for.count("hook.house.example"), 1)
            self.assertEqual(len(came), 1)

    @with_options(webhook_hosts=())
    def test_a_webhook_is_no_way_into_the_servers_own_machine(self) -> None:
        for host in ("127.0.0.1", "localhost", "169.254.169.254", "0.0.0.0", "[::1]", "[::ffff:127.0.0.1]"):
            with self.subTest(host):
                answer = self.call("POST", "/hooks", address=f"http://{host}:5432/")
                self.assertEqual(answer.json()["title"], "Not reached from here")

    def test_nobody_is_flooded_with_tests(self) -> None:
        self.choose()
        self.assertEqual([self.call("POST", "/try").status_code for _ in range(2)], [200, 429])

    def test_people_see_and_drop_their_own_alone(self) -> None:
        with receiver() as (address, _):
            number = self.call("POST", "/hooks", address=address).json()["id"]
        self.assertEqual(self.call("DELETE", f"/hooks/{number}", Role.VIEWER).status_code, 404)
        self.call("POST", "/try")
        self.assertEqual(self.call("GET", "", Role.VIEWER).json()["total"], 0)
        self.assertEqual(self.call("GET", "").json()["total"], 1)

    def test_a_must_that_opens_asks_for_a_job_once_it_is_committed(self) -> None:
        Finding.objects.update(told_at=timezone.now())
        self.house.send(survey(minutes=1, engine__effects="opencl"))
        reevaluate_seats([Seat.objects.get(name="pan-03").pk])
        asked = ProcrastinateJob.objects.filter(task_name="notices.tell_musts")
        with self.captureOnCommitCallbacks(execute=True):
            self.house.send(survey(minutes=2, engine__effects="vulkan"))
            reevaluate_seats([Seat.objects.get(name="pan-03").pk])
            self.assertEqual(asked.count(), 0)
        self.assertEqual(asked.count(), 1)


class InPerson(TestCase):
    """What a token, which may be stolen, does not do for its owner."""

    def test_a_token_changes_no_address_and_makes_no_feed(self) -> None:
        house = House()
        for scope in Scope:
            token = AccessToken.make(house.people[Role.SUPERVISOR], "test", scope)
            client = CheckedClient(headers={"Authorization": f"Bearer {token}"})
            for method, path, body in (
                ("put", "notices/choice", {"mail": "thief@example.org"}),
                ("post", "notices/code", {}),
                ("post", "notices/confirm", {"code": "0" * 8}),
                ("post", "notices/hooks", {"address": "http://127.0.0.1/x"}),
                ("delete", "notices/hooks/1", {}),
                ("post", "notices/try", {}),
                ("get", "calendar", {}),
            ):
                with self.subTest(scope=scope, path=path):
                    answer = client.generic(method.upper(), f"/api/v1/{path}", json.dumps(body), "application/json")
                    self.assertEqual((answer.status_code, answer.json()["title"]), (403, "In person"))
        self.assertFalse(Choice.objects.exclude(mail="").exists())
