"""A server of ours to measure."""

import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx

from normant_standin.postgres import free_port

REPOSITORY = Path(__file__).resolve().parents[1]
EXAMPLES = REPOSITORY / "docs" / "examples"


@contextmanager
def serving(workers: int = 1) -> Iterator[str]:
    """A server of ours at an address of its own, with its workers."""
    port = free_port()
    manage = [sys.executable, str(REPOSITORY / "server" / "manage.py")]
    process = subprocess.Popen([*manage, "serve", "--port", str(port)])
    at_work = [subprocess.Popen([*manage, "work"], stderr=subprocess.DEVNULL) for _ in range(workers)]
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(200):
            try:
                httpx.get(f"{address}/api/v1/session", trust_env=False)
                break
            except httpx.TransportError:
                time.sleep(0.1)
        yield address
    finally:
        for child in (process, *at_work):
            child.terminate()
            child.wait(timeout=20)
