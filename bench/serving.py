"""A server of ours to measure."""

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx

from normant_standin.postgres import free_port

from .measure import REPOSITORY

# Answers whatever is asked with as many bytes as `?bytes=` wants, two without.
BARE = """
async def application(scope, receive, send):
    if scope["type"] != "http":
        return
    more = True
    while more:
        more = (await receive()).get("more_body", False)
    body = b"x" * int(scope["query_string"].removeprefix(b"bytes=") or b"2")
    await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", b"%d" % len(body))]})
    await send({"type": "http.response.body", "body": body})
"""


@contextmanager
def serving(workers: int = 1) -> Iterator[str]:
    """A server of ours at an address of its own, with its workers."""
    port = free_port()
    manage = [sys.executable, str(REPOSITORY / "server" / "manage.py")]
    process = subprocess.Popen([*manage, "serve", "--port", str(port)])
    at_work = [subprocess.Popen([*manage, "work"], stderr=subprocess.DEVNULL) for _ in range(workers)]
    address = f"http://127.0.0.1:{port}"
    try:
        _wait_for(f"{address}/api/v1/session")
        yield address
    finally:
        for child in (process, *at_work):
            child.terminate()
            child.wait(timeout=20)


@contextmanager
def uvicorn(name: str, source: str) -> Iterator[str]:
    """An ASGI application of a text of Python, as `application` in it, at an address of its own: a yardstick."""
    folder = Path(os.environ.get("NORMANT_KEYS", ".run/bench/keys")).parent
    (folder / f"yard_{name}.py").write_text(source, "utf-8")
    port = free_port()
    command = [sys.executable, "-m", "uvicorn", f"yard_{name}:application", "--app-dir", str(folder)]
    command += ["--port", str(port), "--no-access-log", "--log-level", "error", "--lifespan", "off"]
    process = subprocess.Popen(command)
    address = f"http://127.0.0.1:{port}"
    try:
        _wait_for(address)
        yield address
    finally:
        process.terminate()
        process.wait(timeout=20)


def _wait_for(address: str) -> None:
    for _ in range(200):
        try:
            httpx.get(address, trust_env=False)
            return
        except httpx.TransportError:
            time.sleep(0.1)
