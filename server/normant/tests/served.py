"""A real server process over a database of its own, for what only shows from outside: the shell, and whole answers."""

import atexit
import json
import os
import shutil
import socket
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import httpx
from django.conf import settings

from normant_core.tests.waiting import PATIENCE_SECONDS, until

from .databases import copy_database, migrated

SERVER = Path(__file__).resolve().parents[2]
DATABASE, FURNISHED = "normant_served", "normant_furnished"
PASSWORD = "salt-and-lamps-9"


class Served:
    """The small house of the tests, served. `tokens` are people's by role, `agent` is the token of pan-03's."""

    def __init__(self, database: str = DATABASE, *, furnished: bool = True, **env: str) -> None:
        self._beside: list[subprocess.Popen[bytes]] = []
        self.tokens, self.agent = dict[str, str](), ""
        self.run = Path(tempfile.mkdtemp(prefix="normant-served-"))
        if furnished:
            house = _furnished()
            self.tokens, self.agent = house.tokens, house.agent
            shutil.copytree(house.keys, self.run / "keys")
        known = {
            "DATABASE_URL": copy_database(database, house.database if furnished else None),
            "NORMANT_KEYS": str(self.run / "keys"),
        }
        self.env = {**os.environ, **known, **env}
        self.port = _free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.log = self.run / "server.log"
        atexit.register(self.stop)
        if furnished:
            self.serve()

    def serve(self) -> None:
        """Begin to serve."""
        self.beside("serve", "--port", str(self.port))
        self.until(self._answers)

    def client(self, who: str = "", **more: Any) -> httpx.Client:
        """A role's script, `agent` for pan-03's, nobody by default."""
        token = self.agent if who == "agent" else self.tokens.get(who, who)
        headers = {"Authorization": f"Bearer {token}"} if token else {}
        return httpx.Client(base_url=self.address, headers=headers, trust_env=False, timeout=30, **more)

    def manage(self, *words: str) -> str:
        """What a command of the server's prints."""
        return self._ran([str(SERVER / "manage.py"), *words])

    def python(self, text: str) -> str:
        """What a line of Python prints, with Django set up."""
        return self._ran(["-c", _SET_UP + text])

    def beside(self, *words: str) -> subprocess.Popen[bytes]:
        """Another process of the house's, such as a worker; it ends with it."""
        with self.log.open("ab") as log:
            command = [sys.executable, str(SERVER / "manage.py"), *words]
            process = subprocess.Popen(command, env=self.env, stdout=log, stderr=log)
        self._beside.append(process)
        return process

    def until(self, holds: Callable[[], bool], seconds: float = PATIENCE_SECONDS) -> None:
        """Raises AssertionError, with what the processes said, where it does not hold by then."""
        until(holds, seconds, lambda: self.log.read_text("utf-8")[-4000:])

    def agent_dialects(self) -> object:
        """What the agent is told to read, with the house's signatures."""
        with self.client("agent") as agent:
            return agent.get("/api/v1/agent/dialects").raise_for_status().json()

    def stop(self) -> None:
        """End it."""
        for process in self._beside:
            process.terminate()
            process.wait(timeout=20)

    def _ran(self, words: list[str]) -> str:
        return _run(words, self.env)

    def _answers(self) -> bool:
        if self._beside[0].poll() is not None:
            raise AssertionError("the server does not start:\n" + self.log.read_text("utf-8"))
        try:
            return httpx.get(f"{self.address}/api/v1/session", trust_env=False).is_success
        except httpx.HTTPError:
            return False


@cache
def served() -> Served:
    """The one server of a test run."""
    return Served()


@dataclass(frozen=True)
class _Furnished:
    """A database with the small house in it, from which others are copied; the keys and tokens that go with it."""

    database: str
    keys: Path
    tokens: dict[str, str]
    agent: str


@cache
def _furnished() -> _Furnished:
    """Build the small house once, in a process of its own: this one is at work in the database of the tests."""
    keys = Path(tempfile.mkdtemp(prefix="normant-furnished-")) / "keys"
    env = {**os.environ, "DATABASE_URL": copy_database(FURNISHED, migrated()), "NORMANT_KEYS": str(keys)}
    made = json.loads(_run(["-c", _SET_UP + "from normant.tests.served import furnish; print(furnish())"], env))
    atexit.register(shutil.rmtree, keys.parent, ignore_errors=True)
    return _Furnished(FURNISHED, keys, made["tokens"], made["agent"])


_SET_UP = "import django; django.setup(); "


def _run(words: list[str], env: dict[str, str]) -> str:
    """Return what a Python process prints. Raises AssertionError where it fails."""
    env = {**env, "DJANGO_SETTINGS_MODULE": "normant.config.settings"}
    done = subprocess.run([sys.executable, *words], env=env, capture_output=True, text=True, check=False)
    if done.returncode:
        raise AssertionError(f"{words[:2]} failed:\n{done.stderr}")
    return done.stdout


def furnish() -> str:
    """Build the house in the database at hand; its tokens as JSON."""
    from normant.accounts.models import AccessToken, User  # noqa: PLC0415 (after setup)
    from normant.tests.house import House  # noqa: PLC0415

    settings.NORMANT_SIGNS = True
    house = House()
    house.send()
    for user in User.objects.all():
        user.set_password(PASSWORD)
        user.save()
    tokens = {user.role: AccessToken.make(user, "test") for user in User.objects.all()}
    return json.dumps({"tokens": tokens, "agent": house.token})


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
