"""The gate: what every request passes on the loop, before a thread is spent on it.

In this order, so that what costs more comes later: the name by which the server was asked, the address and the
method, the size that is announced, who asks (before a body that is large), the body whole, and a turn.
"""

import asyncio
import contextlib
from collections.abc import Callable, MutableMapping
from pathlib import Path
from typing import IO, Any

from a2wsgi import WSGIMiddleware
from django.conf import settings
from django.http.request import split_domain_port, validate_host

from normant.agents.quick import QuickDoor
from normant.agents.views import package_file
from normant.common.problems import Problem

from .answers import Message, Outbox, Send, Stalled, refuse, send_in_time, send_json
from .bodies import Gone, Receive, pour_away, read_whole, replayed, too_large
from .callers import Caller, Callers, Headers
from .connections import network_of
from .patience import Patience
from .routes import ORDINARY, Route, route_of
from .streams import Streams
from .turns import Turns

Scope = MutableMapping[str, Any]
Django = Callable[[Any, Any], Any]
EVENTS, WAIT, SURVEY, PACKAGES = "/api/v1/events", "wait", "survey", "package"
PART = 256 * 1024


class Gate:
    """ASGI 3, around Django's WSGI application."""

    def __init__(self, django: Django, callers: Callers, streams: Streams, quick: QuickDoor) -> None:
        self._callers, self._streams, self._quick = callers, streams, quick
        self._patience = Patience(settings.NORMANT.patience_seconds)
        # A thousand agents that return at once leave people their threads.
        self._people: Any = WSGIMiddleware(django, workers=12)
        self._agents: Any = WSGIMiddleware(django, workers=4)
        self._strangers_turns = Turns(in_all=3, each=2, waiting=400)
        self._people_turns = Turns(in_all=10, each=4, waiting=60)
        self._long_turns = Turns(in_all=3, each=1, waiting=12)
        self._agents_turns = Turns(in_all=4, each=1, waiting=12)
        self._downloads = Turns(in_all=200, each=2, waiting=0)
        self._uploads = Turns(in_all=40, each=2, waiting=4)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer an HTTP request."""
        if scope["type"] != "http":
            await send({"type": "websocket.close", "code": 1000})
            return
        # Behind WSGI a header with an underscore passes for the one with a hyphen.
        scope["headers"] = [(name, value) for name, value in scope["headers"] if b"_" not in name]
        headers: Headers = dict(scope["headers"])
        try:
            await self._pass(scope, headers, receive, send)
        except Problem as problem:
            key = _stranger(scope)
            self._patience.refused(key)
            await self._patience.keep(key)
            with contextlib.suppress(Stalled):
                await self._send_away(problem, headers, receive, send)
                return
            await _hang_up(scope)
        except Gone:
            pass
        except Stalled:
            await _hang_up(scope)

    async def _pass(self, scope: Scope, headers: Headers, receive: Receive, send: Send) -> None:
        _check_host(headers)
        address = _address(scope)
        if scope["path"] == EVENTS and scope["method"] == "GET":
            await self._streams.events(headers, address, receive, send)
            return
        route = route_of(scope["method"], scope["path"])
        if announced(headers) > route.limit:
            raise too_large(route.limit)
        if route.is_for_agents and route.name != "enrol":
            await self._pass_agent(scope, headers, route, receive, send)
            return
        caller = await self._caller(headers, address)
        if route.limit > ORDINARY:
            check_sender(caller, route)
        key, turns = (caller.key, self._people_turns) if caller else (_stranger(scope), self._strangers_turns)
        if caller and route.is_long:
            turns = self._long_turns
        await self._patience.keep(key)
        send = self._counting(key, send)
        async with self._body(key, route, receive) as body, turns.turn(key):
            outbox = await _hand_on(self._people, scope, body, send)
        await outbox.close()

    async def _pass_agent(self, scope: Scope, headers: Headers, route: Route, receive: Receive, send: Send) -> None:
        agent = await self._callers.agent(headers, _address(scope))
        if route.name == WAIT:
            await self._streams.wait(agent, scope["query_string"], receive, send)
            return
        if route.name == PACKAGES:
            async with self._downloads.turn(agent.key):
                place = await self._callers.run(package_file, scope["path"].rpartition("/")[2])
                await _send_file(send, place)
            return
        async with self._body(agent.key, route, receive) as body:
            if route.name == SURVEY:
                answer = await self._quick.answer(headers, body.read())
                body.seek(0)
                if answer:
                    await send_json(send, answer)
                    return
            async with self._agents_turns.turn(agent.key):
                outbox = await _hand_on(self._agents, scope, body, send)
        await outbox.close()

    @contextlib.asynccontextmanager
    async def _body(self, key: str, route: Route, receive: Receive) -> Any:
        """The body of a request; of large ones each caller sends a few at a time."""
        async with contextlib.AsyncExitStack() as stack:
            if route.limit > ORDINARY:
                await stack.enter_async_context(self._uploads.turn(key))
            with await read_whole(receive, route.limit) as body:
                yield body

    async def _caller(self, headers: Headers, address: str) -> Caller | None:
        """Who asks, None for a stranger."""
        if b"authorization" not in headers and settings.SESSION_COOKIE_NAME.encode() not in headers.get(b"cookie", b""):
            return None
        try:
            return await self._callers.person(headers, address)
        except Problem as problem:
            if problem.status == 401:
                return None
            raise

    def _counting(self, key: str, send: Send) -> Send:
        """Django's refusals count as well."""

        async def counted(message: Message) -> None:
            if message.get("status", 200) >= 400:
                self._patience.refused(key)
            await send(message)

        return counted

    async def _send_away(self, problem: Problem, headers: Headers, receive: Receive, send: Send) -> None:
        """Refuse. A body that was not read is poured away, or its connection would close over the answer."""
        unread = bool(announced(headers)) or b"transfer-encoding" in headers
        await refuse(send, problem, close=unread)
        if unread:
            if b"expect" not in headers:
                await pour_away(receive)
            await send_in_time(send, {"type": "http.response.body", "body": b""})


async def _hand_on(threads: Any, scope: Scope, body: IO[bytes], send: Send) -> Outbox:
    """Have a thread answer, and wait until it is free; what is left of the answer waits in the outbox."""
    outbox = Outbox(send)
    try:
        await threads(scope, replayed(body), outbox.put)
    except BaseException:
        outbox.drop()
        raise
    return outbox


def announced(headers: Headers) -> int:
    """How many bytes a request says that it has."""
    length = headers.get(b"content-length", b"0")
    return int(length) if length.isdigit() else 0


def check_sender(caller: Caller | None, route: Route) -> None:
    """Whether a large body is worth reading. Raises Problem; where it does not, Django looks once more."""
    if caller is None:
        raise Problem(401, "Sign in first", "this needs a session or a bearer token")
    if route.permission and route.permission not in caller.permissions:
        raise Problem(403, "Not yours to do", f"you may not {route.permission.value}")


def _check_host(headers: Headers) -> None:
    """Names that the house did not give could be put into what is sent to people. Raises Problem."""
    name, _ = split_domain_port(headers.get(b"host", b"").decode("latin-1"))
    if not name or not validate_host(name, settings.ALLOWED_HOSTS):
        raise Problem(400, "Not this house", "the server is not known by this name: NORMANT_HOSTS lists its names")


def _address(scope: Scope) -> str:
    return network_of((scope.get("client") or ("",))[0])


def _stranger(scope: Scope) -> str:
    """In whose name somebody unknown is counted."""
    return f"address {_address(scope)}"


async def _hang_up(scope: Scope) -> None:
    """Cut a connection whose reader does not read: closing it would wait for them."""
    if cut := scope.get("state", {}).get("cut"):
        cut()
    await asyncio.sleep(0.01)  # the server hears of it before it looks whether the answer was whole


async def _send_file(send: Send, place: Path) -> None:
    """A file of any size, without a thread that waits for its reader."""
    with await asyncio.to_thread(place.open, "rb") as file:
        length = place.stat().st_size
        head = [(b"content-type", b"application/octet-stream"), (b"content-length", str(length).encode())]
        await send_in_time(send, {"type": "http.response.start", "status": 200, "headers": head})
        while part := await asyncio.to_thread(file.read, PART):
            await send_in_time(send, {"type": "http.response.body", "body": part, "more_body": True})
        await send_in_time(send, {"type": "http.response.body", "body": b""})
