import json
from typing import Any

from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.test import Client, TestCase, override_settings

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role
from normant.config.settings import PASSWORD_HASHERS


class Session(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.user = User.objects.create_user("sal", password="brine and salt", role=Role.SUPERVISOR.value)

    def sign_in(self, password: str, client: Client | None = None) -> Any:
        body = json.dumps({"name": "sal", "password": password})
        return (client or self.client).post("/api/v1/session", body, "application/json")

    def test_signing_in_says_who_one_is_and_what_one_may(self) -> None:
        session = self.sign_in("brine and salt").json()
        self.assertEqual((session["name"], session["role"]), ("sal", "supervisor"))
        self.assertIn("correct", session["may"])
        self.assertEqual(self.client.get("/api/v1/session").json()["name"], "sal")
        self.client.delete("/api/v1/session")
        self.assertIsNone(self.client.get("/api/v1/session").json()["name"])

    @override_settings(TIME_ZONE="Europe/Dublin")
    def test_names_the_time_zone_of_the_facility_to_everybody(self) -> None:
        self.assertEqual(self.client.get("/api/v1/session").json()["time_zone"], "Europe/Dublin")
        self.assertEqual(self.sign_in("brine and salt").json()["time_zone"], "Europe/Dublin")

    @override_settings(PASSWORD_HASHERS=PASSWORD_HASHERS)
    def test_a_password_that_an_earlier_version_hashed_signs_in_and_is_hashed_anew(self) -> None:
        User.objects.update(password=PBKDF2PasswordHasher().encode("brine and salt", "salt", iterations=1000))
        self.assertEqual(self.sign_in("guess").status_code, 401)
        self.assertEqual(self.sign_in("brine and salt").status_code, 200)
        self.user.refresh_from_db()
        self.assertTrue(self.user.password.startswith("scrypt$"))
        self.assertEqual(self.sign_in("brine and salt").status_code, 200)

    def test_a_wrong_password_is_refused_and_ten_lock_the_door(self) -> None:
        statuses = [self.sign_in("guess").status_code for _ in range(11)]
        self.assertEqual((statuses[0], statuses[-1]), (401, 429))
        self.assertEqual(self.sign_in("brine and salt").status_code, 429)

    def test_a_session_needs_its_csrf_token_even_to_begin(self) -> None:
        self.assertEqual(self.sign_in("brine and salt", Client(enforce_csrf_checks=True)).status_code, 403)

    def test_access_tokens_are_kept_as_digests(self) -> None:
        token = AccessToken.make(self.user, "script")
        self.assertNotIn(token, str(list(AccessToken.objects.values())))
        headers = {"Authorization": f"Bearer {token}"}
        self.assertEqual(Client(headers=headers).get("/api/v1/seats").status_code, 200)
        User.objects.update(is_active=False)
        self.assertEqual(Client(headers=headers).get("/api/v1/seats").status_code, 401)
