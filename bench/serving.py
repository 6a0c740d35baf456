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
def serving() -> Iterator[str]:
    """A server of ours at an address of its own, with its worker."""
    port = free_port()
    command = [
        sys.executable,
        "-m",
        "uvicorn",
        "normant.config.asgi:application",
        "--port",
        str(port),
        "--no-access-log",
    ]
    process = subprocess.Popen([*command, "--log-level", "warning", "--timeout-graceful-shutdown", "1"])
    worker = subprocess.Popen(
        [sys.executable, str(REPOSITORY / "server" / "manage.py"), "work"], stderr=subprocess.DEVNULL
    )
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
        for child in (process, worker):
            child.terminate()
            child.wait(timeout=20)
