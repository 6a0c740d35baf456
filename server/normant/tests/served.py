"""A real server process over a database of its own, for what only shows from outside: the shell, and whole answers."""

import atexit
import json
import os
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

import httpx
import psycopg
from django.conf import settings
from psycopg import sql

SERVER = Path(__file__).resolve().parents[2]
DATABASE = "normant_served"
PASSWORD = "salt-and-lamps-9"


class Served:
    """The small house of the tests, served. `tokens` are people's by role, `agent` is the token of pan-03's."""

    def __init__(self, database: str = DATABASE, *, furnished: bool = True, **env: str) -> None:
        self._beside: list[subprocess.Popen[bytes]] = []
        self.tokens, self.agent = dict[str, str](), ""
        self.run = Path(tempfile.mkdtemp(prefix="normant-served-"))
        known = {"DATABASE_URL": _fresh_database(database), "NORMANT_KEYS": str(self.run / "keys")}
        self.env = {**os.environ, **known, **env}
        self.port = _free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.log = self.run / "server.log"
        atexit.register(self.stop)
        if furnished:
            self.manage("migrate", "--verbosity", "0")
            house = json.loads(self.python("from normant.tests.served import furnish; print(furnish())"))
            self.tokens, self.agent = house["tokens"], house["agent"]
            self.serve()

    def serve(self) -> None:
        """Begin to serve."""
        self.beside("serve", "--port", str(self.port))
        self._await_answer()

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
        return self._ran(["-c", f"import django; django.setup(); {text}"])

    def beside(self, *words: str) -> subprocess.Popen[bytes]:
        """Another process of the house's, such as a worker; it ends with it."""
        with self.log.open("ab") as log:
            command = [sys.executable, str(SERVER / "manage.py"), *words]
            process = subprocess.Popen(command, env=self.env, stdout=log, stderr=log)
        self._beside.append(process)
        return process

    def until(self, holds: Callable[[], bool], seconds: float) -> None:
        """Raises AssertionError, with what the processes said, where it does not hold by then."""
        deadline = time.monotonic() + seconds
        while not holds():
            if time.monotonic() > deadline:
                raise AssertionError("it does not come to hold:\n" + self.log.read_text("utf-8")[-4000:])
            time.sleep(0.2)

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
        env = {**self.env, "DJANGO_SETTINGS_MODULE": "normant.config.settings"}
        done = subprocess.run([sys.executable, *words], env=env, capture_output=True, text=True, check=False)
        if done.returncode:
            raise AssertionError(f"{words[:2]} failed:\n{done.stderr}")
        return done.stdout

    def _await_answer(self) -> None:
        deadline = time.monotonic() + 60
        while True:
            try:
                httpx.get(f"{self.address}/api/v1/session", trust_env=False).raise_for_status()
                return
            except httpx.HTTPError:
                if time.monotonic() > deadline or self._beside[0].poll() is not None:
                    raise AssertionError("the server does not answer:\n" + self.log.read_text("utf-8")) from None
                time.sleep(0.1)


@cache
def served() -> Served:
    """The one server of a test run."""
    return Served()


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


def no_house() -> str:
    """The address of the database that belongs to PostgreSQL itself, for what is done to others."""
    return urlunsplit(urlsplit(os.environ["DATABASE_URL"])._replace(path="/postgres"))


def _fresh_database(name: str) -> str:
    """The address of an empty database beside the one of the tests."""
    url = urlsplit(os.environ["DATABASE_URL"])
    with psycopg.connect(no_house(), autocommit=True) as connection:
        connection.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))
        connection.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))
    return urlunsplit(url._replace(path=f"/{name}"))


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
