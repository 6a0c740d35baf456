"""Who stands at the door: looked up before a body is read and a turn is given, and remembered for some seconds.

What a caller may do is asked anew by Django for each request; here it is only whether a large body is worth reading,
and in whose name turns are counted.
"""

import asyncio
import time
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from importlib import import_module
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user
from django.db import DataError, OperationalError, close_old_connections, connection
from django.http import HttpRequest, parse_cookie

from normant.accounts.auth import caller
from normant.accounts.models import User
from normant.accounts.permissions import Permission
from normant.agents.identify import presence_of, token_digest
from normant.common.lost_connection import close_if_lost
from normant.common.problems import Problem, database_away, not_kept

from .turns import Turns

Headers = dict[bytes, bytes]
FRESH_SECONDS = 5.0
KNOWN = 20_000  # callers that are remembered
_LONGEST = 4096  # characters of what somebody shows to be known by


@dataclass(frozen=True, slots=True)
class Caller:
    """A person, with what they may do; or an agent, with the key and the name of its seat.

    `key` names them where turns are counted. An editor's `seat` is the only one whose news they hear; None hears all.
    """

    key: str
    permissions: frozenset[Permission] = frozenset()
    seat: str | None = None
    seat_id: int = 0


class Callers:
    """Looks callers up in threads of its own, so that no answer has to wait for them."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(4, thread_name_prefix="callers")
        self._known: OrderedDict[tuple[bytes, bytes], tuple[float, Caller]] = OrderedDict()
        # Whoever shows nonsense waits in the row of their address.
        self._lookups = Turns(in_all=16, each=4, waiting=400)

    async def person(self, headers: Headers, address: str, *, anew: bool = False) -> Caller:
        """The person behind a request. Raises Problem 401 for a stranger."""
        shown = (headers.get(b"authorization", b""), headers.get(b"cookie", b""))
        return await self._who(shown, partial(_person, headers), address, anew)

    async def agent(self, headers: Headers, address: str, *, anew: bool = False) -> Caller:
        """The agent behind a request. Raises Problem 401 for a stranger."""
        shown = (headers.get(b"authorization", b""), b"agent")
        return await self._who(shown, partial(_agent, headers), address, anew)

    async def run(self, work: Callable[..., Any], *of: Any) -> Any:
        """Something short that asks the database, in one of these threads."""
        return await asyncio.get_running_loop().run_in_executor(self._threads, partial(_in_thread, work, *of))

    async def _who(self, shown: tuple[bytes, bytes], look: Callable[[], Caller], address: str, anew: bool) -> Caller:
        if sum(map(len, shown)) > _LONGEST:
            raise Problem(401, "Who are you?", "the token or cookie is too long")
        now = time.monotonic()
        if not anew and (known := self._known.get(shown)) and now - known[0] < FRESH_SECONDS:
            return known[1]
        try:
            async with self._lookups.turn(address):
                caller: Caller = await self.run(_again_if_lost, look)
        except Problem:
            self._known.pop(shown, None)
            raise
        self._known[shown] = (now, caller)
        self._known.move_to_end(shown)
        while len(self._known) > KNOWN:
            self._known.popitem(last=False)
        return caller


def _again_if_lost(look: Callable[[], Caller]) -> Caller:
    """Who somebody is, asked once more where the database was restarted since this thread asked last."""
    try:
        return look()
    except OperationalError:
        if not close_if_lost():
            raise
        return look()


def _in_thread(work: Callable[..., Any], *of: Any) -> Any:
    close_old_connections()  # nobody does it for a thread that serves no request
    try:
        return work(*of)
    except OperationalError:
        connection.close()
        raise database_away() from None
    except (DataError, ValueError):  # what somebody shows may be nothing that a database knows
        raise not_kept() from None


def _person(headers: Headers) -> Caller:
    request = _request(headers)
    sessions = import_module(settings.SESSION_ENGINE)
    cookies = parse_cookie(headers.get(b"cookie", b"").decode("latin-1"))
    request.session = sessions.SessionStore(cookies.get(settings.SESSION_COOKIE_NAME))
    request.user = get_user(request)
    user: User = caller(request)
    seat = None if user.may(Permission.SEE_HOUSE) else user.seat
    return Caller(f"person {user.pk}", user.permissions, seat)


def _agent(headers: Headers) -> Caller:
    seat = presence_of(token_digest(_request(headers))).seat
    return Caller(f"seat {seat.pk}", seat=seat.name, seat_id=seat.pk)


def _request(headers: Headers) -> Any:
    request = HttpRequest()
    request.method = "GET"  # nothing is changed here: a session needs no further token
    request.META["HTTP_AUTHORIZATION"] = headers.get(b"authorization", b"").decode("latin-1")
    return request
