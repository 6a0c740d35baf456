"""Every route of the API against every role, from the routes themselves."""

from collections.abc import Iterator
from typing import Any
from uuid import UUID

from django.test import Client, TestCase

from normant.accounts.auth import Needs
from normant.accounts.permissions import ALLOWED, Role
from normant.agents.urls import urlpatterns
from normant.config.api import api

from .house import House, survey

OPEN = {"session", "sign_in", "sign_out", "set_password"}
EXAMPLE = {"{name}": "pan-03", "{number}": "1", "{app}": "corrow"}


def routes() -> Iterator[tuple[str, str, Any]]:
    """(method, path, operation) of every route."""
    for prefix, router in api._routers:
        for path, view in router.path_operations.items():
            for operation in view.operations:
                full = f"/api/v1{prefix}{path}"
                for name, value in EXAMPLE.items():
                    full = full.replace(name, value)
                yield operation.methods[0], full, operation


class RoutesByRole(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def test_every_route_names_its_permission(self) -> None:
        without = {o.operation_id for _, _, o in routes() if not isinstance(o.auth_param, Needs)}
        self.assertEqual(without, OPEN)

    def test_what_answers_with_a_secret_says_so(self) -> None:
        for method, path, operation in routes():
            answers = [
                model.model_fields["response"].annotation for model in operation.response_models.values() if model
            ]
            names = {name for answer in answers for name in getattr(answer, "model_fields", ())}
            if names & {"code", "link", "secret", "token"}:
                with self.subTest(f"{method} {path}"):
                    self.assertTrue(operation.auth_param.shown_once)

    def test_strangers_are_sent_away(self) -> None:
        for method, path, operation in routes():
            if operation.operation_id not in OPEN:
                with self.subTest(f"{method} {path}"):
                    answer = Client().generic(method, path)
                    self.assertEqual((answer.status_code, answer["Content-Type"]), (401, "application/problem+json"))

    def test_a_role_gets_what_it_may_and_nothing_else(self) -> None:
        for role in Role:
            script, browser = self.house.client(role), self.house.browser(role)
            for method, path, operation in routes():
                if operation.operation_id in OPEN:
                    continue
                client = browser if operation.auth_param.in_person else script
                with self.subTest(f"{role}: {method} {path}"):
                    there = path.replace("/account/tokens/1", "/account/tokens/999999")  # not what it comes with
                    status = client.generic(method, there, "{}", content_type="application/json").status_code
                    may = operation.auth_param.permission in ALLOWED[role]
                    self.assertEqual(status != 403, may, status)
                    self.assertLess(status, 500)

    def test_an_editor_sees_their_own_seat_alone(self) -> None:
        _, token = self.house.enrolled("pan-04")
        self.house.send(survey(seat="pan-04"), token)
        client = self.house.client(Role.EDITOR)
        self.assertEqual([s["name"] for s in client.get("/api/v1/seats").json()["items"]], ["pan-03"])
        self.assertEqual({f["seat"] for f in client.get("/api/v1/findings").json()["items"]}, {"pan-03"})
        self.assertEqual(client.get("/api/v1/seats/pan-04").status_code, 404)

    def test_a_session_without_its_csrf_token_changes_nothing(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.house.people[Role.SUPERVISOR], "django.contrib.auth.backends.ModelBackend")
        answer = client.post("/api/v1/seats/pan-03/survey")
        self.assertEqual((answer.status_code, answer.json()["title"]), (403, "Forged request"))

    def test_agents_doors_are_for_agents(self) -> None:
        person = self.house.client()
        for pattern in urlpatterns:
            path = str(pattern.pattern).replace("<str:order>", "1")
            path = path.replace("<uuid:order>", str(UUID(int=1))).replace("<int:number>", "0")
            if path == "enrol":
                continue
            for client in (Client(), person):
                with self.subTest(path):
                    statuses = {client.get(f"/api/v1/agent/{path}").status_code}
                    statuses.add(client.post(f"/api/v1/agent/{path}", "{}", "application/json").status_code)
                    self.assertLessEqual(statuses, {401, 405, 422})
                    self.assertTrue(statuses & {401, 422})
