"""Surveys a second over HTTP, unchanged and with three readings changed, beside two yardsticks."""

import datetime as dt
import itertools
import json
import re
import socket
import statistics
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

from .house import enrolled_seats, set_up, with_standard
from .measure import EXAMPLES, Figure
from .serving import BARE, serving, uvicorn

SEATS, CONNECTIONS = 24, 8
SECONDS = 4.0
SAME, MOVED = 0.14, 0.045  # of what bare ASGI answers
SIZE = 9_000  # bytes of a survey
WORKED = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())


@dataclass(slots=True)
class Agent:
    """One seat's side: its token, its survey, and the moment of the next one."""

    token: str
    body: dict[str, Any]
    moments: Iterator[dt.datetime]
    turn: int = 0

    def next(self, *, changed: bool) -> bytes:
        """The next survey: as the last one, or with three readings changed."""
        self.turn += 1
        body = {**self.body, "taken_at": next(self.moments).isoformat()}
        if changed:
            body["readings"] = [_moved(reading, self.turn) for reading in self.body["readings"]]
        return json.dumps(body).encode()


def ingest() -> Figure:
    """Surveys a second, unchanged and with three readings changed, as shares of what bare ASGI answers."""
    agents = _agents()
    with serving() as address:
        _drive(address, agents, changed=False, seconds=1.0)
        rounds = [
            (
                _drive(address, agents, changed=False),
                _drive(address, agents, changed=True),
                _judged(),
                _yardstick("bare", BARE, agents[0]),
                _yardstick("plain", DJANGO, agents[0]),
            )
            for _ in range(3)
        ]
    same, moved, judged, bare, django = (statistics.median(column) for column in zip(*rounds, strict=True))
    news = f"3 changed: {moved:.0f}/s, the last judged {judged:.1f} s after"
    against = f"of {bare:.0f}/s bare ASGI; {same / django:.1f} x Django + pydantic; {news}"
    bar = f"at least {SAME:g} x, changed {MOVED:g} x ({moved / bare:.2f})"
    return Figure("ingest", same, "/s", against, same / bare, bar, same >= SAME * bare and moved >= MOVED * bare)


def _agents() -> list[Agent]:
    body = {**WORKED, "errors": [{"source": "facts:padding", "message": ""}]}
    body["errors"] = [{"source": "facts:padding", "message": "x" * 500}] * 16
    while len(json.dumps(body)) > SIZE:
        body["errors"].pop()
    begun = dt.datetime.now(dt.UTC) - dt.timedelta(hours=1)
    agents = []
    set_up()
    with_standard()
    for name, token in enrolled_seats("bench", SEATS):
        moments = (begun + dt.timedelta(milliseconds=10 * n) for n in itertools.count())
        agents.append(Agent(token, {**body, "seat": name}, moments))
    return agents


def _judged() -> float:
    """Seconds until the worker has judged all that was taken in."""
    from normant.seats.models import Presence  # noqa: PLC0415 (after setup)

    begun = time.perf_counter()
    while Presence.objects.exclude(unjudged_since=None).exists():
        time.sleep(0.05)
        assert time.perf_counter() - begun < 60, "the worker does not judge"
    return time.perf_counter() - begun


def _moved(reading: dict[str, Any], turn: int) -> dict[str, Any]:
    values: dict[str, Any] = {
        "memory.held_back": 2**30 + turn * 2**20,
        "memory.preview_pool": 2**31 + turn * 2**20,
        "safety.autosave_every": 60 + turn % 500,
    }
    return {**reading, "value": values.get(reading["setting"], reading["value"])}


def _drive(address: str, agents: list[Agent], *, changed: bool, seconds: float = SECONDS) -> float:
    """Answers a second over CONNECTIONS connections, each with seats of its own; requests are made beforehand."""
    shares = [_requests(agents[n::CONNECTIONS], changed=changed, count=int(SECONDS * 300)) for n in range(CONNECTIONS)]
    host, port = address.removeprefix("http://").split(":")
    with ThreadPoolExecutor(CONNECTIONS) as pool:
        begun = time.perf_counter()
        counts = pool.map(lambda share: _send(host, int(port), share, begun + seconds), shares)
        return sum(counts) / (time.perf_counter() - begun)


def _requests(agents: list[Agent], *, changed: bool, count: int) -> list[bytes]:
    made = []
    for agent in itertools.islice(itertools.cycle(agents), count):
        body = agent.next(changed=changed)
        head = f"POST /api/v1/agent/survey HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer {agent.token}\r\n"
        head += f"Content-Type: application/json\r\nContent-Length: {len(body)}\r\n\r\n"
        made.append(head.encode() + body)
    return made


def _send(host: str, port: int, requests: list[bytes], until: float) -> int:
    """A client that costs next to nothing: it would else be what is measured."""
    count = 0
    with socket.create_connection((host, port)) as wire:
        for request in requests:
            if time.perf_counter() > until:
                break
            wire.sendall(request)
            answer = wire.recv(65536)
            while b"\r\n\r\n" not in answer or len(answer) < _length(answer):
                answer += wire.recv(65536)
            assert answer.startswith(b"HTTP/1.1 200"), answer
            count += 1
    return count


def _length(answer: bytes) -> int:
    head, _, _ = answer.partition(b"\r\n\r\n")
    length = re.search(rb"content-length: (\d+)", head, re.IGNORECASE)
    assert length, answer
    return len(head) + 4 + int(length[1])


DJANGO = """
import django
from django.conf import settings
settings.configure(ROOT_URLCONF=__name__, ALLOWED_HOSTS=["*"], SECRET_KEY="bench", MIDDLEWARE=[
    "django.middleware.security.SecurityMiddleware", "django.middleware.common.CommonMiddleware"])
django.setup()
from typing import Any
from django.core.asgi import get_asgi_application
from django.http import JsonResponse
from django.urls import path
from pydantic import BaseModel
class Reading(BaseModel):
    setting: str
    value: Any
    app: str | None = None
    native: dict[str, Any] | None = None
class Survey(BaseModel):
    format: str
    seat: str
    taken_at: str
    facts: dict[str, Any]
    readings: list[Reading]
    errors: list[dict[str, str]] = []
def survey(request):
    Survey.model_validate_json(request.body)
    return JsonResponse({})
urlpatterns = [path("api/v1/agent/survey", survey)]
application = get_asgi_application()
"""


def _yardstick(name: str, source: str, agent: Agent) -> float:
    with uvicorn(name, source) as address:
        return _drive(address, [agent] * CONNECTIONS, changed=False, seconds=2.0)
