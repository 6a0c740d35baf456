"""Asking whoever sits at a seat, through the API."""

from typing import Any

from normant.accounts.permissions import Role
from normant.orders.models import Order
from normant_core.orders.kinds import AskClose, AskRestart, parse_order

from .test_waves import Stage


class Asking(Stage):
    def ask(self, app: str = "", why: str = "It leaks.", role: Role = Role.SUPERVISOR) -> Any:
        return self.post("seats/pan-03/ask", {"app": app, "why": why}, role)

    def waiting(self) -> list[Any]:
        return [parse_order(bytes(o.body)).action for o in Order.objects.waiting().filter(seat__name="pan-03")]

    def test_the_agent_is_given_the_question_and_my_seat_shows_it_until_it_is_answered(self) -> None:
        self.ask("corrow")
        self.assertEqual(self.waiting(), [AskClose("corrow", "It leaks.")])
        planned = self.house.client(Role.EDITOR).get("/api/v1/seats/pan-03/planned").json()
        self.assertEqual(
            [(question["app"], question["why"]) for question in planned["asked"]], [("corrow", "It leaks.")]
        )
        self.hand_in(Order.objects.waiting().get(seat__name="pan-03"), "done")
        planned = self.house.client(Role.EDITOR).get("/api/v1/seats/pan-03/planned").json()
        self.assertEqual(planned["asked"], [])

    def test_a_second_question_takes_the_place_of_the_first(self) -> None:
        self.ask("corrow")
        self.ask("", "A driver waits.")
        self.assertEqual(self.waiting(), [AskRestart("A driver waits.")])

    def test_nobody_is_asked_about_what_is_not_there(self) -> None:
        self.assertEqual(self.ask("zzz").json()["title"], "Not installed")
        self.assertEqual(self.ask("corrow", role=Role.ASSISTANT).status_code, 403)
        self.assertEqual(self.waiting(), [])
