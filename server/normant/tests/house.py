"""A small house for tests: people of every role, the worked standard, pan-03 with its agent."""

import datetime as dt
import json
from pathlib import Path
from typing import Any

from django.test import Client
from django.utils import timezone

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role
from normant.dialects.services.keep_dialect import keep_dialect
from normant.findings.services.publish import publish
from normant.orders.services.sign import sign_waiting
from normant.seats.models import Seat
from normant.seats.services.enrol import offer_enrolment, redeem
from normant.seats.services.register import Place, register

from .client import CheckedClient

EXAMPLES = Path(__file__).resolve().parents[3] / "docs" / "examples"
STANDARD = (EXAMPLES / "house.standard.toml").read_text("utf-8")
SURVEY: dict[str, Any] = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())


class House:
    """Build it in setUpTestData; `token` is the agent's of pan-03."""

    def __init__(self) -> None:
        self.people = {
            role: User.objects.create_user(role.value, role=role.value, last_seen_at=timezone.now()) for role in Role
        }
        User.objects.filter(role=Role.EDITOR).update(seat="pan-03")
        keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8"), "test")
        sign_waiting()
        publish(STANDARD, base=0, note="", user=None)
        self.seat, self.token = self.enrolled("pan-03")

    def enrolled(self, name: str) -> tuple[Seat, str]:
        """A cutting seat and its agent's token."""
        seat = register(name, Place("offline", "Pan House", "The Salt Ledger"), "test")
        return redeem(offer_enrolment(seat, "test"))

    def client(self, role: Role = Role.SUPERVISOR) -> Client:
        """A script of that role's."""
        user = User.objects.get(role=role)
        token = AccessToken.make(user, "test")
        # Used just now: what its first use writes is not what a test counts.
        AccessToken.objects.filter(user=user).update(last_used_at=timezone.now())
        return CheckedClient(headers={"Authorization": f"Bearer {token}"})

    def browser(self, role: Role = Role.SUPERVISOR) -> Client:
        """Somebody of that role who signed in."""
        client = CheckedClient()
        client.force_login(self.people[role], "django.contrib.auth.backends.ModelBackend")
        return client

    def agent(self, token: str = "") -> Client:
        """The agent of a seat."""
        return CheckedClient(headers={"Authorization": f"Bearer {token or self.token}"})

    def send(self, body: dict[str, Any] | None = None, token: str = "", **more: Any) -> Any:
        """Hand in a survey as an agent does."""
        raw = json.dumps(survey() if body is None else body)
        return self.agent(token).post("/api/v1/agent/survey", raw, content_type="application/json", **more)


def survey(*, minutes: float = 0, seat: str = "pan-03", **values: Any) -> dict[str, Any]:
    """The worked survey, taken that many minutes from now, with other values for some settings (dots as __)."""
    changed = {key.replace("__", "."): value for key, value in values.items()}
    readings = [{**r, "value": changed.get(r["setting"], r["value"])} for r in SURVEY["readings"]]
    taken = timezone.now() + dt.timedelta(minutes=minutes)
    return {**SURVEY, "seat": seat, "taken_at": taken.isoformat(), "readings": readings}
