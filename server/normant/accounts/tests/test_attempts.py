"""Attempts at passwords and codes: each one counts, and a stranger who guesses locks nobody else out."""

import datetime as dt
import json
from typing import Any

from axes.models import AccessAttempt, AccessLog
from django.test import Client, TestCase

from normant.accounts.middleware import COUNTING
from normant.accounts.models import User
from normant.accounts.permissions import Role
from normant.accounts.services.verify_password import MOST_FOR_A_NAME, MOST_FROM_AN_ADDRESS, PAUSE
from normant.notices.services.choose import CODE_TRIES
from normant.tests.house import House

PASSWORD = "brine and salt"


class Attempts(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.user = User.objects.create_user("sal", password=PASSWORD, role=Role.SUPERVISOR.value)
        User.objects.create_user("tor", password=PASSWORD, role=Role.SUPERVISOR.value)

    def send(self, path: str, body: dict[str, str], key: str = "", method: str = "post", **extra: str) -> Any:
        headers = {"Idempotency-Key": key} if key else {}
        act = getattr(self.client, method)
        return act(f"/api/v1/{path}", json.dumps(body), "application/json", headers=headers, **extra)

    def sign_in(self, name: str = "sal", password: str = "guess", address: str = "192.0.2.1", key: str = "") -> Any:
        return self.send("session", {"name": name, "password": password}, key, REMOTE_ADDR=address)

    def fail(self, count: int, name: str = "guess-{}", address: str = "192.0.2.{}") -> None:
        """Enter wrong passwords, as they were counted: for each its own name and address where these have a number."""
        for number in range(count):
            AccessAttempt.objects.create(
                username=name.format(number), ip_address=address.format(number % 250), failures_since_start=1
            )

    def age(self, by: dt.timedelta) -> None:
        """Let that time pass for every attempt."""
        for attempt in AccessAttempt.objects.all():
            AccessAttempt.objects.filter(pk=attempt.pk).update(attempt_time=attempt.attempt_time - by)


class Counted(Attempts):
    """With a key of the caller's and without one."""

    def statuses(self, send: Any, keyed: bool) -> list[int]:
        return [send(f"key-{number}" if keyed else "").status_code for number in range(16)]

    def test_wrong_passwords_at_the_sign_in(self) -> None:
        self.client.force_login(User.objects.get(username="tor"))
        for keyed in (False, True):
            with self.subTest(keyed=keyed):
                AccessAttempt.objects.all().delete()
                statuses = self.statuses(lambda key: self.sign_in(key=key), keyed)
                self.assertEqual((statuses[0], statuses[-1]), (401, 429))

    def test_wrong_present_passwords_of_an_account(self) -> None:
        body = {"old": "guess", "new": "another long one"}
        for keyed in (False, True):
            with self.subTest(keyed=keyed):
                AccessAttempt.objects.all().delete()
                self.client.force_login(self.user)
                statuses = self.statuses(lambda key: self.send("account/password", body, key, "put"), keyed)
                self.assertEqual((statuses[0], statuses[-1]), (403, 429))
        self.user.refresh_from_db()
        self.assertTrue(self.user.check_password(PASSWORD))

    def test_wrong_codes_of_a_letter(self) -> None:
        self.client.force_login(self.user)
        self.send("notices/choice", {"mail": "sal@example.org"}, method="put")
        for number in range(CODE_TRIES + 1):
            self.assertEqual(self.send("notices/confirm", {"code": "0" * 8}, f"k{number}").status_code, 422)
        self.assertIn("request another mail", self.send("notices/confirm", {"code": "0" * 8}, "last").json()["detail"])

    def test_acts_that_count_attempts_are_those_that_keys_leave_aside(self) -> None:
        counting = ["session", "session/password", "account/password", "notices/confirm"]
        self.assertTrue(all(COUNTING.fullmatch(f"/api/v1/{path}") for path in counting))
        for path in ("sessions", "session/other", "account/tokens", "notices/code", "people"):
            self.assertIsNone(COUNTING.fullmatch(f"/api/v1/{path}"), path)


class Keys(Attempts):
    def test_a_key_without_a_caller_is_refused(self) -> None:
        answer = self.send("errands/by-hand", {}, "k")
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "No key"))

    def test_a_token_that_is_unknown_is_told_as_such(self) -> None:
        client = Client(headers={"Authorization": "Bearer nothing", "Idempotency-Key": "k"})
        self.assertEqual(client.post("/api/v1/errands/by-hand", "{}", "application/json").status_code, 401)

    def test_uploads_take_none_so_that_no_second_file_is_lost(self) -> None:
        self.client.force_login(self.user)
        answer = self.client.post("/api/v1/templates", {"title": "x"}, headers={"Idempotency-Key": "k"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("not supported for uploads", answer.json()["detail"])


class Strangers(Attempts):
    def test_ten_guesses_lock_a_name_at_one_address_alone(self) -> None:
        for _ in range(11):
            last = self.sign_in("nobody")
        self.assertEqual((last.status_code, last["Content-Type"]), (429, "application/problem+json"))
        self.assertEqual((last.json()["status"], int(last["Retry-After"])), (429, 900))
        self.assertEqual(self.sign_in(password=PASSWORD).status_code, 200)
        self.assertEqual(self.sign_in("nobody", address="192.0.2.9").status_code, 401)

    def test_a_name_that_is_tried_from_everywhere_is_slowed_and_not_locked(self) -> None:
        self.fail(MOST_FOR_A_NAME, name="sal")
        answer = self.sign_in(password=PASSWORD)
        self.assertEqual((answer.status_code, answer["Retry-After"]), (429, "10"))
        self.age(PAUSE)
        self.assertEqual(self.sign_in().status_code, 401)
        self.assertEqual(self.sign_in().status_code, 429)  # the next one has to wait again
        self.age(PAUSE)
        self.assertEqual(self.sign_in(password=PASSWORD).status_code, 200)

    def test_an_address_that_tries_every_name_is_slowed_and_others_are_not(self) -> None:
        self.fail(MOST_FROM_AN_ADDRESS, address="192.0.2.1")
        self.assertEqual(self.sign_in(password=PASSWORD).status_code, 429)
        self.assertEqual(self.sign_in(password=PASSWORD, address="192.0.2.2").status_code, 200)

    def test_whoever_signed_in_there_before_is_not_slowed(self) -> None:
        AccessLog.objects.create(username="sal", ip_address="192.0.2.1")
        self.fail(MOST_FROM_AN_ADDRESS, address="192.0.2.1")
        self.fail(MOST_FOR_A_NAME, name="sal")
        self.assertEqual(self.sign_in(password=PASSWORD).status_code, 200)
        self.assertEqual(self.sign_in("tor", password=PASSWORD).status_code, 429)

    def test_guesses_of_yesterday_are_forgotten(self) -> None:
        self.fail(MOST_FOR_A_NAME, name="sal")
        self.age(dt.timedelta(days=1))
        self.assertEqual(self.sign_in(password=PASSWORD).status_code, 200)


class OwnPassword(Attempts):
    def test_it_is_changed_with_the_present_one(self) -> None:
        self.client.force_login(self.user)
        body = {"old": PASSWORD, "new": "another long one"}
        self.assertEqual(self.send("account/password", body, method="put").status_code, 204)
        self.assertEqual(self.client.get("/api/v1/account").status_code, 200)  # one's own session goes on
        self.assertEqual(self.sign_in(password="another long one").status_code, 200)
