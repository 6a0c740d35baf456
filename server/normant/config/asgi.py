"""The outer shell under uvicorn: event streams and waiting agents here, everything else in Django behind WSGI.

Django's own ASGI handler serves a third of the requests that its WSGI handler does (docs/architecture.md).
"""

import asyncio
from collections.abc import Awaitable, Callable, Coroutine, MutableMapping
from typing import Any
from urllib.parse import parse_qs

import orjson
from a2wsgi import WSGIMiddleware
from asgiref.sync import sync_to_async

# Django must be set up before anything that knows a model is imported.
# isort: off
from .wsgi import application as django
from .hub import Hub, connection_of, until
from .strangers import Stranger, agent_of, person_of, waiting_orders
from normant.agents.quick import QuickDoor
from normant_core.survey import LIMIT_BYTES
# isort: on

Scope = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[MutableMapping[str, Any]]]
Send = Callable[[MutableMapping[str, Any]], Awaitable[None]]
QUIET = 15.0  # seconds after which a silent stream says that it is still there
LONGEST_WAIT = 30

hub = Hub()
quick = QuickDoor(connection_of())
wsgi = WSGIMiddleware(django, workers=12)  # type: ignore[arg-type] # Django's answer is an iterable of bytes


async def application(scope: Scope, receive: Receive, send: Send) -> None:
    """ASGI 3."""
    if scope["type"] == "lifespan":
        await _lifespan(receive, send)
    elif scope["type"] == "http" and scope["path"] == "/api/v1/events":
        await _answer(_events, scope, receive, send)
    elif scope["type"] == "http" and scope["path"] == "/api/v1/agent/wait":
        await _answer(_wait, scope, receive, send)
    elif scope["type"] == "http" and scope["path"] == "/api/v1/agent/survey" and scope["method"] == "POST":
        await _survey(scope, receive, send)
    else:
        await wsgi(scope, receive, send)  # type: ignore[arg-type]


async def _lifespan(receive: Receive, send: Send) -> None:
    running = list[asyncio.Task[None]]()
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            await quick.open()
            running = [asyncio.create_task(hub.listen()), asyncio.create_task(quick.call_judges())]
            await send({"type": "lifespan.startup.complete"})
        else:
            for task in running:
                task.cancel()
            await quick.close()
            await send({"type": "lifespan.shutdown.complete"})
            return


async def _survey(scope: Scope, receive: Receive, send: Send) -> None:
    """The short way where the survey is plain; else Django gets the request as it came."""
    messages, size = [await receive()], 0
    while messages[-1]["type"] == "http.request" and (size := size + len(messages[-1].get("body", b""))) <= LIMIT_BYTES:
        if not messages[-1].get("more_body"):
            raw = b"".join(message.get("body", b"") for message in messages)
            if answer := await quick.answer(dict(scope["headers"]), raw):
                length = (b"content-length", str(len(answer)).encode())
                head = [(b"content-type", b"application/json"), length]
                await send({"type": "http.response.start", "status": 200, "headers": head})
                await send({"type": "http.response.body", "body": answer})
                return
            break
        messages.append(await receive())

    async def again() -> MutableMapping[str, Any]:
        return messages.pop(0) if messages else await receive()

    await wsgi(scope, again, send)  # type: ignore[arg-type]


async def _answer(
    view: Callable[[Scope, Send], Coroutine[Any, Any, None]], scope: Scope, receive: Receive, send: Send
) -> None:
    """Serve until done or until the client has gone."""
    serving = asyncio.create_task(view(scope, send))
    gone = asyncio.create_task(_gone(receive))
    done, left = await asyncio.wait({serving, gone}, return_when=asyncio.FIRST_COMPLETED)
    for task in left:
        task.cancel()
    await asyncio.gather(*left, return_exceptions=True)
    if serving in done:
        try:
            serving.result()
        except Stranger as stranger:
            await _json(send, stranger.status, {"title": str(stranger), "status": stranger.status}, problem=True)


async def _gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


async def _events(scope: Scope, send: Send) -> None:
    """Server-sent events (HTML Living Standard, 9.2): a topic and an id; the client reads anew what it shows."""
    headers = dict(scope["headers"])
    own = await sync_to_async(person_of, thread_sensitive=False)(headers)
    kind = [(b"content-type", b"text/event-stream"), (b"cache-control", b"no-store"), (b"x-accel-buffering", b"no")]
    await send({"type": "http.response.start", "status": 200, "headers": kind})
    with hub.queue() as queue:
        await _send(send, f"id: {hub.epoch}-0\nevent: hello\ndata: {{}}\n\n", more=True)
        if last := headers.get(b"last-event-id", b"").decode("latin-1"):
            for missed in hub.missed(last):
                await _send(send, _event(missed), more=True)
        async for news in until(queue, QUIET):
            if news is None:
                await _send(send, ": still here\n\n", more=True)
            elif news.topic != "orders" and (own is None or news.topic != "seat" or news.subject == own):
                await _send(send, _event(news), more=True)


async def _wait(scope: Scope, send: Send) -> None:
    """How many orders wait for a seat, as soon as there is one."""
    asked = parse_qs(scope["query_string"].decode("latin-1")).get("seconds", ["20"])[0]
    seconds = min(int(asked) if asked.isdigit() else 20, LONGEST_WAIT)
    with hub.queue() as queue:
        seat, name = await sync_to_async(agent_of, thread_sensitive=False)(dict(scope["headers"]))
        count = await sync_to_async(waiting_orders, thread_sensitive=False)(seat)
        if not count and seconds:
            count = await _ordered(queue, seat, name, seconds)
    await _json(send, 200, {"orders": count})


async def _ordered(queue: Any, seat: int, name: str, seconds: int) -> int:
    try:
        async with asyncio.timeout(seconds):
            while True:
                news = await queue.get()
                if (news.topic, news.subject) == ("orders", name) or news.topic == "everything":
                    return await sync_to_async(waiting_orders, thread_sensitive=False)(seat)
    except TimeoutError:
        return 0


def _event(news: Any) -> str:
    data = orjson.dumps({"topic": news.topic, "id": news.subject}).decode()
    return f"id: {hub.epoch}-{news.number}\ndata: {data}\n\n"


async def _send(send: Send, text: str, *, more: bool = False) -> None:
    await send({"type": "http.response.body", "body": text.encode(), "more_body": more})


async def _json(send: Send, status: int, value: Any, *, problem: bool = False) -> None:
    kind = b"application/problem+json" if problem else b"application/json"
    await send({"type": "http.response.start", "status": status, "headers": [(b"content-type", kind)]})
    await send({"type": "http.response.body", "body": orjson.dumps(value)})
