"""A web process besieged: 200 hostile visitors beside one who works, and a thousand agents that return at once."""

import asyncio
import datetime as dt
import gzip
import itertools
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

import httpx
import psutil

from ..house import ASKS, enrolled_seats, generated
from ..ingest import Agent
from ..measure import EXAMPLES, REPOSITORY, Figure
from ..serving import serving

VISITORS, SECONDS, ASKED = 200, 20.0, 60
HOUSE = 200  # seats, of a house whose floor is asked for
AGENTS, WITHIN = 1000, 60.0
MIB = 2**20
TIMES, MOST_MIB = 5.0, 400
PAUSE = 0.2  # seconds of a visitor between two acts: they are many, and run on the server's own two cores
SURVEY = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())


def siege() -> Figure:
    """The p95 of an ordinary request under siege, beside what it is alone."""
    token, tokens = generated(HOUSE), dict(enrolled_seats("back", AGENTS))
    with serving() as address, tempfile.TemporaryDirectory() as folder:
        web = _web_process(address)
        alone = _p95(address, token)
        memory, files = web.memory_info().rss, _files()
        command = [sys.executable, "-m", "bench.campaigns.siege", address, _another()]
        with (Path(folder) / "told").open("w+") as output:
            hostile = subprocess.Popen(command, stdout=output, cwd=REPOSITORY)
            time.sleep(3)
            besieged, most = _p95(address, token), web.memory_info().rss
            hostile.wait(timeout=SECONDS * 6)
            output.seek(0)
            answers = Counter(json.loads(output.read()))
        most = max(most, web.memory_info().rss)
        after, left = _p95(address, token), _files() - files
        asyncio.run(_return(address, tokens, token, SURVEY))  # the house knows them: they were here before the outage
        returned, refused = asyncio.run(_return(address, tokens, token, _meanwhile()))
        most = max(most, web.memory_info().rss)
    print(f"siege: {dict(answers.most_common())}", flush=True)
    print(
        f"siege: memory {memory / MIB:.0f} MiB before, {most / MIB:.0f} MiB at most; {left} files left; afterwards"
        f" {after / alone:.2f} x alone; {AGENTS} agents taken in within {returned:.1f} s, {refused} people refused",
        flush=True,
    )
    server_errors = sum(count for answer, count in answers.items() if answer.startswith("5") and answer != "503")
    others = server_errors == 0 and most < MOST_MIB * MIB and left <= 0 and returned < WITHIN and refused == 0
    held = others and besieged <= TIMES * alone
    against = f"of it alone; {most / MIB:.0f} MiB; {AGENTS} agents back in {returned:.0f} s"
    bar = f"p95 under {VISITORS} visitors at most {TIMES:g} x, < {MOST_MIB} MiB, < {WITHIN:g} s"
    return Figure("siege", besieged * 1e3, "ms", against, besieged / alone, bar, held)


def _another() -> str:
    """The token of somebody who may do as much, and means no good."""
    from normant.accounts.models import AccessToken, User  # noqa: PLC0415 (after setup)

    user, _ = User.objects.get_or_create(username="hostile", defaults={"role": "supervisor"})
    return AccessToken.make(user, f"hostile {time.time_ns()}")


def _web_process(address: str) -> psutil.Process:
    port = int(address.rpartition(":")[2])
    for connection in psutil.net_connections("tcp"):
        if connection.status == "LISTEN" and connection.laddr and connection.laddr.port == port and connection.pid:
            return psutil.Process(connection.pid)
    raise LookupError(f"nothing listens at {address}")


def _files() -> int:
    """Files where bodies would be spooled."""
    return sum(1 for path in Path(tempfile.gettempdir()).iterdir() if path.name.endswith(".upload"))


def _p95(address: str, token: str) -> float:
    """Seconds, of somebody who asks for the floor again and again."""
    taken = list[float]()
    with httpx.Client(base_url=address, trust_env=False, timeout=60) as client:
        for number in range(ASKED + 12):
            begun = time.perf_counter()
            answer = client.get(ASKS["floor"], headers={"Authorization": f"Bearer {token}"})
            if number >= 12:
                taken.append(time.perf_counter() - begun)
            assert answer.status_code == 200, answer.text
    return statistics.quantiles(taken, n=20)[18]


def _meanwhile() -> dict[str, Any]:
    """What a seat tells after the outage: three readings changed."""
    known: dict[str, Any] = json.loads(Agent("", SURVEY, iter([dt.datetime.now(dt.UTC)])).next(changed=True))
    return known


async def _return(address: str, tokens: dict[str, str], person: str, survey: dict[str, Any]) -> tuple[float, int]:
    """Seconds until each agent's survey was taken in, trying again as agents do; people refused meanwhile."""
    limits = httpx.Limits(max_connections=AGENTS + 10)
    done, refused = asyncio.Event(), 0
    async with httpx.AsyncClient(base_url=address, trust_env=False, timeout=120, limits=limits) as client:

        async def returns(name: str, token: str) -> None:
            body = json.dumps({**survey, "seat": name}).encode()
            for wait in itertools.chain((1, 2, 4), itertools.repeat(8)):
                headers = {"Authorization": f"Bearer {token}"}
                try:
                    answer = await client.post("/api/v1/agent/survey", content=body, headers=headers)
                    if answer.status_code == 200:
                        return
                    assert answer.status_code in (429, 503), answer.text
                except httpx.TransportError:
                    pass
                await asyncio.sleep(wait)

        async def works() -> None:
            nonlocal refused
            while not done.is_set():
                answer = await client.get(ASKS["floor"], headers={"Authorization": f"Bearer {person}"})
                refused += answer.status_code != 200
                await asyncio.sleep(0.2)

        begun, worker = time.perf_counter(), asyncio.create_task(works())
        await asyncio.gather(*(returns(*pair) for pair in tokens.items()))
        taken = time.perf_counter() - begun
        done.set()
        await worker
    return taken, refused


# What each kind of visitor sends, over and over; `{token}` is somebody's who signed in.
_FAULTY = gzip.compress(json.dumps({**SURVEY, "readings": [{"setting": n} for n in range(2000)]}).encode())
_DOTTED = json.dumps(
    {"text": ".".join(["a"] * 50) + " = 1\n" + "\n".join(f"a{n}.b = 1" for n in range(20_000))}
).encode()
_DEEP = json.dumps({"text": "a = " + "[" * 20_000 + "]" * 20_000}).encode()
_TERMS = json.dumps({"text": '[[rule]]\nwhen = "' + "not " * 5000 + 'true"\n'}).encode()
_FORM = b'--x\r\nContent-Disposition: form-data; name="file"; filename="a"\r\n\r\n' + b"x" * 200_000 + b"\r\n--x--\r\n"


def _asks(method: str, path: str, body: bytes = b"", **headers: str) -> bytes:
    head = "".join(f"{name.replace('_', '-')}: {value}\r\n" for name, value in headers.items())
    return f"{method} {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: {len(body)}\r\n{head}\r\n".encode() + body


def _kinds(token: str) -> list[Callable[[], bytes]]:
    bearer, known = "Bearer junk", f"Bearer {token}"
    form = "multipart/form-data; boundary=x"
    given = "application/json"
    number = itertools.count()
    sent = [
        _asks("POST", "/api/v1/agent/survey", _FAULTY, Authorization=bearer, Content_Encoding="gzip"),
        _asks("POST", "/api/v1/standard/lint", _DOTTED, Authorization=known, Content_Type=given),
        _asks("POST", "/api/v1/standard/lint", _DEEP, Authorization=known, Content_Type=given),
        _asks("POST", "/api/v1/standard/lint", _TERMS, Authorization=known, Content_Type=given),
        _asks("POST", "/floor", _FORM, Content_Type=form),
        _asks("POST", "/metrics", _FORM, Content_Type=form),
        _asks("POST", "/api/v1/house/archive", _FORM, Content_Type=form),
        _asks("GET", "/api/v1/agent/wait?seconds=%C2%B2", Authorization=bearer),
        _asks("GET", "/api/v1/events", Last_Event_ID="%C2%B2"),
        _asks("BREW", "/api/v1/floor"),
        _asks("GET", "/api/v1/findings?limit=99999999999999999999", Authorization=known),
    ]

    def tries() -> bytes:
        body = json.dumps({"name": f"name{next(number)}", "password": "guess"}).encode()
        return _asks("POST", "/api/v1/session", body, Content_Type=given)

    return [*(lambda body=body: body for body in sent), tries]


async def _visit(host: str, port: int, sends: Callable[[], bytes], until: float, statuses: Counter[str]) -> None:
    while time.monotonic() < until:
        try:
            reader, writer = await asyncio.open_connection(host, port)
            writer.write(sends())
            line = await asyncio.wait_for(reader.readline(), 60)
            statuses[line.split(b" ")[1].decode() if b" " in line else "closed"] += 1
            writer.close()
        except (OSError, TimeoutError):
            statuses["closed"] += 1
        await asyncio.sleep(PAUSE)


async def _hangs(host: str, port: int, sends: bytes, until: float, statuses: Counter[str]) -> None:
    """Announce a body, or a head, and never end it; or say nothing at all."""
    while time.monotonic() < until:
        try:
            reader, writer = await asyncio.open_connection(host, port)
            writer.write(sends)
            line = await asyncio.wait_for(reader.readline(), max(0.1, until - time.monotonic()))
            statuses[line.split(b" ")[1].decode() if b" " in line else "closed"] += 1
            writer.close()
        except (OSError, TimeoutError):
            statuses["held"] += 1
        await asyncio.sleep(PAUSE)


async def _besiege(address: str, token: str) -> None:
    host, _, port = address.removeprefix("http://").partition(":")
    statuses, until, kinds = Counter[str](), time.monotonic() + SECONDS, _kinds(token)
    announced = _asks("POST", "/api/v1/session", b"", Content_Type="application/json").replace(
        b"Length: 0", b"Length: 900"
    )
    hanging = [announced, b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ", b""]
    acts: list[Awaitable[None]] = []
    for number in range(VISITORS):
        if number % 4 == 0:
            acts.append(_hangs(host, int(port), hanging[number // 4 % 3], until, statuses))
        else:
            acts.append(_visit(host, int(port), kinds[number % len(kinds)], until, statuses))
    await asyncio.gather(*acts)
    print(json.dumps(statuses))


if __name__ == "__main__":
    os.nice(5)  # the attackers' own work is not the server's
    asyncio.run(_besiege(*sys.argv[1:3]))
