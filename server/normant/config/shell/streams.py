"""What waits without a thread: event streams of people, and agents that wait for orders."""

import asyncio
from collections.abc import Coroutine
from typing import Any
from urllib.parse import parse_qs

import orjson

from normant.accounts.permissions import Permission
from normant.common.numbers import is_number
from normant.common.problems import Problem
from normant.orders.models import Order

from .answers import Send, send_in_time, send_json
from .bodies import Receive
from .callers import Caller, Callers, Headers
from .hub import Hub, News, until
from .turns import Turns

QUIET_SECONDS = 15.0  # after which a silent stream says that it is still there
LOOK_AGAIN_SECONDS = 10.0  # after which it is asked anew whether whoever listens is still signed in
LONGEST_WAIT_SECONDS = 30
FOR_AGENTS, OF_PEOPLE = "orders", "person"
OF_SEATS = ("seat", "planned")  # topics whose subject is a seat: an editor hears those of their own


class Streams:
    """Answers that last."""

    def __init__(self, hub: Hub, callers: Callers) -> None:
        self._hub, self._callers = hub, callers
        self._listeners = Turns(in_all=5_000, each=16, waiting=0)
        self._agents = Turns(in_all=50_000, each=4, waiting=0)

    async def events(self, headers: Headers, address: str, receive: Receive, send: Send) -> None:
        """Server-sent events (HTML Living Standard, 9.2): a topic and an id; the client reads anew what it shows."""
        listener = await self._callers.person(headers, address, anew=True)
        async with self._listeners.turn(listener.key):
            await _until_gone(receive, self._tell(listener, headers, address, send))

    async def wait(self, agent: Caller, query: bytes, receive: Receive, send: Send) -> None:
        """How many orders wait for a seat, as soon as there is one."""
        async with self._agents.turn(agent.key):
            await _until_gone(receive, self._count(agent, seconds_of(query), send))

    async def _tell(self, listener: Caller, headers: Headers, address: str, send: Send) -> None:
        kind = [(b"content-type", b"text/event-stream"), (b"cache-control", b"no-store"), (b"x-accel-buffering", b"no")]
        await send_in_time(send, {"type": "http.response.start", "status": 200, "headers": kind})
        loop = asyncio.get_running_loop()
        looked = spoke = loop.time()
        with self._hub.queue() as queue:
            await _send(send, f"id: {self._hub.epoch}-0\nevent: hello\ndata: {{}}\n\n")
            if last := headers.get(b"last-event-id", b"").decode("latin-1"):
                for missed in filter(lambda news: may_hear(listener, news), self._hub.missed(last)):
                    await _send(send, self._event(missed))
            async for news in until(queue, 1.0):
                about = news is not None and news.topic == OF_PEOPLE and f"person {news.subject}" == listener.key
                if about or loop.time() - looked > LOOK_AGAIN_SECONDS:
                    looked = loop.time()
                    try:
                        listener = await self._callers.person(headers, address, anew=True)
                    except Problem:
                        break  # signed out, or disabled
                if news is not None and may_hear(listener, news):
                    await _send(send, self._event(news))
                elif loop.time() - spoke > QUIET_SECONDS:
                    await _send(send, ": still here\n\n")
                else:
                    continue
                spoke = loop.time()
        await send_in_time(send, {"type": "http.response.body", "body": b""})

    async def _count(self, agent: Caller, seconds: int, send: Send) -> None:
        with self._hub.queue() as queue:
            count = await self._callers.run(waiting_orders, agent.seat_id)
            if not count and seconds:
                count = await self._ordered(queue, agent, seconds)
        await send_json(send, orjson.dumps({"orders": count}))

    async def _ordered(self, queue: "asyncio.Queue[News]", agent: Caller, seconds: int) -> int:
        try:
            async with asyncio.timeout(seconds):
                while True:
                    news = await queue.get()
                    if (news.topic, news.subject) == (FOR_AGENTS, agent.seat) or news.topic == "everything":
                        count: int = await self._callers.run(waiting_orders, agent.seat_id)
                        return count
        except TimeoutError:
            return 0

    def _event(self, news: News) -> str:
        data = orjson.dumps({"topic": news.topic, "id": news.subject}).decode()
        return f"id: {self._hub.epoch}-{news.number}\ndata: {data}\n\n"


def may_hear(listener: Caller, news: News) -> bool:
    """Whether news are for somebody: those that were missed and those that come go by the same rule."""
    if news.topic == "everything":
        return True  # the advice to read anew says nothing
    if news.topic in (FOR_AGENTS, OF_PEOPLE):
        return False
    if Permission.SEE_HOUSE in listener.permissions:
        return news.topic != "planned"  # they hear of the rollout itself
    return news.topic in OF_SEATS and bool(listener.seat) and news.subject == listener.seat


def seconds_of(query: bytes) -> int:
    """How long an agent wants to wait: twenty seconds where it does not say, not at all where it says no number."""
    asked = parse_qs(query.decode("latin-1")).get("seconds", ["20"])[0]
    return min(int(asked), LONGEST_WAIT_SECONDS) if is_number(asked) else 0


def waiting_orders(seat: int) -> int:
    """How many orders have no receipt yet."""
    return Order.objects.to_carry_out().filter(seat=seat).count()


async def _until_gone(receive: Receive, serving: Coroutine[Any, Any, None]) -> None:
    """Serve until done, or until the client has gone. Raises what the serving raises."""
    task = asyncio.ensure_future(serving)
    gone = asyncio.ensure_future(_gone(receive))
    _, left = await asyncio.wait({task, gone}, return_when=asyncio.FIRST_COMPLETED)
    for waiting in left:
        waiting.cancel()
    await asyncio.gather(*left, return_exceptions=True)
    if task not in left:
        task.result()


async def _gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


async def _send(send: Send, text: str) -> None:
    await send_in_time(send, {"type": "http.response.body", "body": text.encode(), "more_body": True})
