"""Who stands at the doors that the shell answers itself, outside of Django's middlewares."""

from importlib import import_module
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user
from django.db import close_old_connections, connection
from django.http import HttpRequest, parse_cookie

from normant.accounts.auth import caller
from normant.accounts.models import User
from normant.accounts.permissions import Permission
from normant.agents.identify import presence_of, token_digest
from normant.common.problems import Problem
from normant.rollouts.models import Order

Headers = dict[bytes, bytes]


class Stranger(Exception):
    """Somebody who is not let in; `status` as HTTP has it."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.detail)
        self.status = problem.status


def person_of(headers: Headers) -> str | None:
    """The one seat whose news the person may hear, None for all. Raises Stranger."""
    request = _request(headers)
    sessions = import_module(settings.SESSION_ENGINE)
    cookies = parse_cookie(headers.get(b"cookie", b"").decode("latin-1"))
    request.session = sessions.SessionStore(cookies.get(settings.SESSION_COOKIE_NAME))
    request.user = get_user(request)
    try:
        user: User = caller(request)
    except Problem as problem:
        raise Stranger(problem) from problem
    finally:
        connection.close()
    return None if user.may(Permission.SEE_HOUSE) else user.seat


def agent_of(headers: Headers) -> tuple[int, str]:
    """Key and name of the seat that an agent speaks for. Raises Stranger."""
    close_old_connections()
    try:
        seat = presence_of(token_digest(_request(headers))).seat
    except Problem as problem:
        raise Stranger(problem) from problem
    return seat.pk, seat.name


def waiting_orders(seat: int) -> int:
    """How many orders have no receipt yet."""
    close_old_connections()
    return Order.objects.waiting().filter(seat=seat).count()


def _request(headers: Headers) -> Any:
    request = HttpRequest()
    request.method = "GET"
    request.META["HTTP_AUTHORIZATION"] = headers.get(b"authorization", b"").decode("latin-1")
    return request
