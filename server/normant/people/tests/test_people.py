import datetime as dt
import json
from io import StringIO
from typing import Any

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role, Scope
from normant.ledger.models import Entry
from normant.tests.house import House

PASSWORD = "salt-and-lamps-9"
ADMIN = Role.ADMINISTRATOR


class People(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def browser(self, who: Role | str = ADMIN) -> Client:
        """Somebody who signed in."""
        client = Client()
        user = User.objects.get(username=getattr(who, "value", who))
        client.force_login(user, "django.contrib.auth.backends.ModelBackend")
        return client

    def call(self, method: str, path: str, client: Client | None = None, **body: Any) -> Any:
        sent = json.dumps(body) if body else ""
        return (client or self.browser()).generic(method, f"/api/v1/{path}", sent, content_type="application/json")

    def add(self, name: str = "kim", role: str = "viewer", seat: str = "") -> str:
        """The link."""
        answer = self.call("POST", "people", name=name, role=role, seat=seat)
        self.assertEqual(answer.status_code, 200, answer.content)
        return str(answer.json()["link"])

    def test_telling_of_many_asks_no_more_than_of_few(self) -> None:
        client, asked = self.browser(), []
        for name in ("kim", "lee"):
            self.add(name)
            with CaptureQueriesContext(connection) as queries:
                client.get("/api/v1/people")
            asked.append(len(queries))
        self.assertEqual(asked[0], asked[1])

    def test_somebody_new_sets_a_password_by_a_link_once(self) -> None:
        link = self.add()
        self.assertEqual(self.call("POST", "session/password", Client(), link=link, password="short").status_code, 422)
        for status in (204, 403):
            answer = self.call("POST", "session/password", Client(), link=link, password=PASSWORD)
            self.assertEqual(answer.status_code, status)
        signed = self.call("POST", "session", Client(), name="kim", password=PASSWORD)
        self.assertEqual(signed.json()["role"], "viewer")

    def test_a_link_ends_after_a_day_with_the_next_and_with_being_disabled(self) -> None:
        first = self.add()
        second = self.call("POST", "people/kim/link").json()["link"]
        self.assertEqual(
            self.call("POST", "session/password", Client(), link=first, password=PASSWORD).status_code, 403
        )
        with self.settings(PASSWORD_RESET_TIMEOUT=-1):
            late = self.call("POST", "session/password", Client(), link=second, password=PASSWORD)
        self.assertEqual(late.status_code, 403)
        self.call("POST", "people/kim/disable")
        self.assertEqual(
            self.call("POST", "session/password", Client(), link=second, password=PASSWORD).status_code, 403
        )
        for link in ("", "kim", "kim:", ":x", "nobody:x-y", "kim:\x00"):
            self.assertEqual(
                self.call("POST", "session/password", Client(), link=link, password=PASSWORD).status_code, 403
            )

    def test_names_roles_and_seats_that_are_none_are_refused(self) -> None:
        self.add()
        for name, role, seat, status in (
            ("KIM", "viewer", "", 409), ("server", "viewer", "", 422), ("a b", "viewer", "", 422), ("-x", "viewer", "", 422),
            ("lou", "king", "", 422), ("lou", "viewer", "pan-03", 422), ("x" * 61, "viewer", "", 422),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual(self.call("POST", "people", name=name, role=role, seat=seat).status_code, status)

    def test_disabled_everything_that_let_them_in_ends(self) -> None:
        browser = self.browser(Role.SUPERVISOR)
        token = AccessToken.make(User.objects.get(username="supervisor"), "script")
        feed = self.call("GET", "calendar", browser).json()["address"]
        script = Client(headers={"Authorization": f"Bearer {token}"})
        self.assertEqual((script.get("/api/v1/seats").status_code, Client().get(feed).status_code), (200, 200))
        self.assertFalse(self.call("POST", "people/supervisor/disable").json()["active"])
        statuses = (browser.get("/api/v1/seats").status_code, script.get("/api/v1/seats").status_code)
        self.assertEqual((*statuses, Client().get(feed).status_code), (401, 401, 404))
        self.call("POST", "people/supervisor/enable")
        statuses = (browser.get("/api/v1/seats").status_code, script.get("/api/v1/seats").status_code)
        self.assertEqual((*statuses, Client().get(feed).status_code), (401, 401, 404), "what ended stays ended")

    def test_ending_sessions_leaves_tokens(self) -> None:
        browser = self.browser(Role.VIEWER)
        token = AccessToken.make(User.objects.get(username="viewer"), "script")
        self.call("POST", "people/viewer/end-sessions")
        self.assertEqual(browser.get("/api/v1/seats").status_code, 401)
        script = Client(headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(script.get("/api/v1/seats").status_code, 200)

    def test_the_last_administrator_stays(self) -> None:
        [person] = [row for row in self.call("GET", "people").json()["items"] if row["name"] == "administrator"]
        for answer in (
            self.call("POST", "people/administrator/disable"),
            self.call("PATCH", "people/administrator", role="viewer", seen=person["seen"]),
        ):
            self.assertEqual((answer.status_code, answer.json()["title"]), (409, "The last administrator"))
        self.add("kim", "administrator")
        self.assertEqual(self.call("POST", "people/administrator/disable", self.browser("kim")).status_code, 200)

    def test_a_place_is_changed_in_place_of_the_one_that_was_read(self) -> None:
        [person] = [row for row in self.call("GET", "people").json()["items"] if row["name"] == "viewer"]
        body = {"role": "editor", "seat": "pan-03"}
        self.assertEqual(self.call("PATCH", "people/viewer", seen=person["seen"], **body).json()["role"], "editor")
        again = self.call("PATCH", "people/viewer", seen=person["seen"], **body)
        self.assertEqual(again.json()["title"], "Changed meanwhile")

    def test_everything_is_in_the_ledger_and_no_secret_is(self) -> None:
        link = self.add()
        self.call("POST", "session/password", Client(), link=link, password=PASSWORD)
        made = self.call("POST", "account/tokens", name="script", scope="read", days=3).json()
        entries = str(list(Entry.objects.values("action", "subject", "detail")))
        for act in ("add person", "offer link", "set password", "make token"):
            self.assertIn(act, entries)
        for secret in (link.partition(":")[2], PASSWORD, made["token"]):
            self.assertNotIn(secret, entries)

    def test_none_of_it_is_done_with_a_token_or_by_others(self) -> None:
        for role in Role:
            script = self.house.client(role)
            for method, path in (("GET", "people"), ("GET", "account"), ("POST", "people/viewer/disable")):
                with self.subTest(f"{role} {path}"):
                    self.assertEqual(self.call(method, path, script).status_code, 403)
            if role is not ADMIN:
                self.assertEqual(self.call("GET", "people", self.browser(role)).status_code, 403)
        self.assertTrue(User.objects.get(username="viewer").is_active)


class Account(People):
    def test_a_password_is_changed_and_other_sessions_end(self) -> None:
        user = User.objects.get(username="viewer")
        user.set_password("old-and-salty-1")
        user.save()
        here, there = self.browser(Role.VIEWER), self.browser(Role.VIEWER)
        wrong = self.call("PUT", "account/password", here, old="x", new=PASSWORD)
        self.assertEqual(wrong.json()["title"], "Not your password")
        self.assertEqual(self.call("PUT", "account/password", here, old="old-and-salty-1", new="1").status_code, 422)
        answer = self.call("PUT", "account/password", here, old="old-and-salty-1", new=PASSWORD)
        self.assertEqual(answer.status_code, 204)
        self.assertEqual((here.get("/api/v1/seats").status_code, there.get("/api/v1/seats").status_code), (200, 401))

    def test_a_token_does_what_its_scope_says_and_no_more(self) -> None:
        expected = {
            Scope.READ: (200, 403, 403),
            Scope.SURVEY: (200, 422, 403),
            Scope.PLAN: (200, 403, 422),
            Scope.ALL: (200, 422, 422),
        }
        for scope, statuses in expected.items():
            token = AccessToken.make(User.objects.get(username="supervisor"), "t", scope)
            script = Client(headers={"Authorization": f"Bearer {token}"})
            answers = (
                script.get("/api/v1/seats").status_code,
                self.call("POST", "surveys", script, x=1).status_code,
                self.call("POST", "rollouts/plan", script, x=1).status_code,
            )
            self.assertEqual(answers, statuses, scope)

    def test_a_token_ends_at_its_day_is_seen_used_and_withdrawn(self) -> None:
        browser = self.browser(Role.VIEWER)
        made = self.call("POST", "account/tokens", browser, name="script", scope="read", days=3).json()
        script = Client(headers={"Authorization": f"Bearer {made['token']}"})
        self.assertEqual(script.get("/api/v1/seats").status_code, 200)
        [token] = self.call("GET", "account", browser).json()["tokens"]
        self.assertTrue(token["last_used_at"])
        self.assertNotIn(made["token"], str(token), "it is shown once")
        AccessToken.objects.update(ends_at=timezone.now() - dt.timedelta(seconds=1))
        self.assertEqual(script.get("/api/v1/seats").status_code, 401)
        self.assertEqual(self.call("DELETE", f"account/tokens/{token['id']}", self.browser()).status_code, 404)
        self.assertEqual(self.call("DELETE", f"account/tokens/{token['id']}", browser).status_code, 204)
        self.assertFalse(AccessToken.objects.filter(user__username="viewer").exists())


class CommandLine(People):
    def run_it(self, *words: str) -> str:
        out = StringIO()
        call_command("people", *words, stdout=out)
        return out.getvalue()

    def test_the_same_by_the_command_line(self) -> None:
        link = self.run_it("add", "kim", "editor", "--seat", "pan-03").strip().removeprefix("/set-password#")
        self.assertEqual(self.call("POST", "session/password", Client(), link=link, password=PASSWORD).status_code, 204)
        self.run_it("change", "kim", "viewer")
        token = self.run_it("token", "kim", "script", "--scope", "read").strip()
        self.assertEqual(Client(headers={"Authorization": f"Bearer {token}"}).get("/api/v1/seats").status_code, 200)
        self.run_it("disable", "kim")
        self.assertIn("kim\tviewer\t\tdisabled", self.run_it("list"))
        for words in (("disable", "administrator"), ("disable", "nobody"), ("token", "nobody", "x")):
            with self.subTest(words), self.assertRaises(CommandError):
                self.run_it(*words)
