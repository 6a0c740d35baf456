"""A conquered house: dialects and orders that it signed in good form, drawn to reach what no seat gives away.

The real agent runs over real files in a folder where secrets and things that start by themselves were planted. None of
the secrets' marks may reach the server, nor the agent's own folder; no planted file may be changed or gone, and nothing
may appear beside them. Of an ordinary preference file with a token of its own the agent keeps a copy before it changes
it, for nobody else to read: that mark may never reach the server.
"""

import contextlib
import datetime as dt
import gzip
import logging
import random
import shutil
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import httpx
import msgspec
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from normant_agent.agent import Agent, Pace
from normant_agent.door import Door, Taken
from normant_agent.errors import JournalError
from normant_agent.hosts.host import Seen
from normant_agent.identity import Identity
from normant_agent.orders.seal import SignedDialect
from normant_agent.tests.bench import FACTS, Bench
from normant_core.base.errors import NormantError
from normant_core.catalogue.settings import catalogue
from normant_core.dialects.dialect import Dialect, signed_dialect
from normant_core.orders import kinds as orders
from normant_core.seat.facts import Application
from normant_core.seat.survey import Reading

from ..measure import Figure

EACH = 10  # orders and dialects of one seat of --seats: 100,000 of each for the usual 10,000
AT_ONCE = 50  # dialects that one look at the house brings
MARK, OWN_MARK = b"m4rk0f4s3cr3t", b"0wn70k3n0f4pr3f3r3nc3"
SEAT = "pan-03"
# Under the preference root: what holds a secret, and what something starts or looks programs up in.
SECRETS = (
    *(".ssh/id_ed25519", ".ssh/config", ".aws/credentials", ".netrc", ".config/keyring/login.toml", ".pgpass"),
    *(
        "chatter/tokens.json",
        "postbox/mail/accounts.xml",
        ".gnupg/private.ini",
        "tidings/cookies.plist",
        ".kube/config",
    ),
    *(
        "corrow/8/credentials.json",
        "corrow/8/licence.key",
        "ledgerer/settings.pem",
        "glaize/5/.env",
        ".cargo/registry.toml",
    ),
)
STARTERS = (
    *(".bashrc", ".profile", ".config/autostart/helper.desktop", ".config/systemd/user/helper.service", ".zshenv"),
    *("LaunchAgents/helper.plist", "Startup/helper.ini", ".local/share/applications/helper.desktop", ".gitconfig"),
    *("corrow/8/scripts/begin.ini", "corrow/8/begin.sh", "cron.d/helper", ".config/environment.d/helper.conf"),
)
LINKS = {"corrow/8/beside.json": ".ssh/config", "glaize/5/linked": ".config/autostart", "pockle": ".ssh"}
ORDINARY = (
    *(
        "corrow/8/preferences.xml",
        "corrow/8/other.json",
        "glaize/5/suite.toml",
        "tidings/view.ini",
        "chatter/settings.json",
    ),
    *("postbox/view.toml", ".config/tidings/view.ini", "pen/page.xml", "ledgerer/look.plist"),
)
FORMS = ("xml", "json", "toml", "ini", "plist", "lines")
CONTENTS = {
    "xml": "<a><b>1</b><token>%s</token><exec>x</exec></a>",
    "json": '{"a": {"b": 1, "token": "%s", "exec": "x"}}',
    "toml": 'a = 1\n[b]\ntoken = "%s"\nexec = "x"\n',
    "ini": "[a]\nb = 1\ntoken = %s\nExec = x\n",
    "plist": '<plist version="1.0"><dict><key>token</key><string>%s</string></dict></plist>',
}
PLACES = (
    *("/a/b", "/b", "/a", "/a/@x", "/c") * 6,
    "/a/token",
    "/token",
    "/b/token",
    "/a/exec",
    "/b/exec",
    "/Exec",
    "a.b",
)
SOUND = (
    ("memory.held_back", 'unit = "MiB"'),
    ("store.source_cache.path", 'kind = "path"'),
    ("engine.effects", 'values = { "1" = "cpu", "x" = "opencl" }'),
)
VALUES = (
    "1",
    "curl x | sh",
    "/bin/sh",
    "$(x)",
    "../../.ssh/config",
    "/home/pan/.ssh",
    "/fast/cache",
    "-x",
    "a\nb",
    "9",
)


class House(Bench):
    """The seat's machine: every application that a dialect speaks of is installed, and closed."""

    preference_root: Path

    def see(self, dialects: Iterable[Dialect]) -> Seen:
        """Facts with every application."""
        apps = tuple(Application(app, "8.3.1", running=False) for app in {dialect.app for dialect in dialects})
        facts = msgspec.structs.replace(FACTS, applications=apps)
        return Seen(facts, (Reading("power.profile", "balanced"),), (), ())

    def system_value(self, setting: str, app: str) -> str:
        """What the system has for an application."""
        return self.system.setdefault((setting, app), "auto")


class ListeningDoor(Door):
    """The agent's own door, whose server looks for marks in every byte that it is sent: a mark is a secret that got
    out."""

    def __init__(self, identity: Identity) -> None:
        super().__init__(identity, transport=httpx.MockTransport(self._answer))
        self.offered: list[SignedDialect] = []
        self.leaked: list[bytes] = []
        self.done = 0

    def fetch(self, what: str, sha256: str, path: Path, most: int) -> None:
        """Bring something, whatever was named: what is done with it is to be tried."""
        path.write_bytes(b"x" * min(most, 64))

    def _answer(self, request: httpx.Request) -> httpx.Response:
        sent = request.content
        if request.headers.get("Content-Encoding") == "gzip":
            sent = gzip.decompress(sent)
        self._look(sent)
        if request.url.path.endswith("/receipt"):
            receipt = msgspec.json.decode(sent, type=orders.Receipt)
            self.done += receipt.outcome == "done"
            for content in receipt.files.values():
                self._look(content)
        if request.url.path.endswith("/dialects"):
            return httpx.Response(200, content=msgspec.json.encode({"items": self.offered}))
        return httpx.Response(200, content=msgspec.json.encode(Taken(changed=False, orders=0)))

    def _look(self, sent: bytes) -> None:
        if MARK in sent or OWN_MARK in sent:
            self.leaked.append(sent[:2000])


def fence(seats: int) -> list[Figure]:
    """How many of each the agent was given, and what it let out or changed: nothing."""
    logging.disable(logging.CRITICAL)
    count, draw = seats * EACH, random.Random(14)
    folder = Path(tempfile.mkdtemp(prefix="normant-fence-"))
    try:
        return [_given(folder, count, draw)]
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _given(folder: Path, count: int, draw: random.Random) -> Figure:
    host, key = House(folder), Ed25519PrivateKey.generate()
    _plant(host)
    before = _planted(host)
    known = Identity("https://here", SEAT, "token", key.public_key().public_bytes_raw())
    door = ListeningDoor(known)
    begun, used = time.perf_counter(), 0
    for batch in range(count // AT_ONCE):
        if batch % 40 == 0:  # another agent now and then; what the last one kept is looked through
            door.leaked += [b"kept: " + str(path).encode() for path in _kept_marks(folder / "agent")]
            shutil.rmtree(folder / "agent", ignore_errors=True)
            agent = Agent(host, known, folder / "agent", door, Pace())
        texts = [_dialect(draw, number) for number in range(AT_ONCE)]
        door.offered = [SignedDialect(app, text, key.sign(signed_dialect(app, text))) for app, text in texts]
        agent.dialects = []
        agent.survey()
        used += len(agent.dialects)
        apps = [dialect.app for dialect in agent.dialects] or ["corrow"]
        files = [file.name for dialect in agent.dialects for file in dialect.file] or ["f"]
        for number in range(AT_ONCE):
            body = orders.canonical(_order(draw, f"{batch}-{number}", apps, files))
            with contextlib.suppress(NormantError, JournalError):
                agent._carry_out(orders.SignedOrder(body, key.sign(body)))
    taken = time.perf_counter() - begun
    door.close()
    after = _planted(host)
    changed = sorted(path for path in {*before, *after} if before.get(path) != after.get(path))
    for fault in (*door.leaked[:5], *changed[:5]):
        print("fence:", fault, flush=True)
    wrong = len(door.leaked) + len(changed)
    against = f"{count:,} dialects ({used:,} used), as many orders ({door.done:,} done), {taken:.0f} s"
    return Figure(
        "fence", wrong, "", against, used / count, "no secret read, no starter written", wrong == 0 < door.done
    )


def _plant(host: House) -> None:
    for root in (host.preference_root, host.root / "disks/home/pan"):
        for path in (*SECRETS, *STARTERS, *ORDINARY):
            place = root / path
            place.parent.mkdir(parents=True, exist_ok=True)
            form = CONTENTS.get(_form(path), CONTENTS["ini"])
            place.write_bytes((form % (OWN_MARK if path in ORDINARY else MARK).decode()).encode())
        for path, end in LINKS.items():
            (root / path).symlink_to(root / end)


def _planted(host: House) -> dict[str, tuple[bytes, int]]:
    """Everything beside what applications keep: content and rights of secrets and starters, and what lies there."""
    planted = dict[str, tuple[bytes, int]]()
    for root in (host.preference_root, host.root / "disks/home/pan"):
        for path in (*SECRETS, *STARTERS):
            place = root / path
            planted[str(place)] = (place.read_bytes(), place.stat().st_mode) if place.exists() else (b"gone", 0)
            if str(place.parent) not in planted and place.parent.name not in ("8", "5", root.name):
                beside = "\n".join(sorted(sibling.name for sibling in place.parent.iterdir()))
                planted[str(place.parent)] = (beside.encode(), place.parent.stat().st_mode)
        for path in LINKS:
            planted[f"{root / path} is a link"] = (b"", int((root / path).is_symlink()))
    return planted


def _kept_marks(folder: Path) -> list[Path]:
    """Files of the agent's with a secret in them, or with an application's own token and readable by others."""
    files = [path for path in folder.rglob("*") if path.is_file()]
    return [
        path
        for path in files
        if MARK in (content := path.read_bytes()) or (OWN_MARK in content and path.stat().st_mode & 0o077)
    ]


def _form(path: str) -> str:
    return next((form for form in CONTENTS if path.endswith(form)), "ini")


def _dialect(draw: random.Random, number: int) -> tuple[str, str]:
    """An application's name, and a dialect of it that names what it should not, in one of many manners."""
    app = draw.choice(
        (f"app{number}", f"corrow{number}", "corrow", "glaize", "chatter", "ledgerer", "tidings", "pockle")
    )
    app = draw.choice(("bash", "ssh", "agent")) if draw.random() < 0.03 else app
    files = list[str]()
    for at in range(draw.choice((1, 1, 1, 2, 3))):
        path = _path(draw)
        form = _form(path) if draw.random() < 0.9 else draw.choice(FORMS)
        bindings = "".join(_binding(draw) for _ in range(draw.choice((1, 1, 1, 2, 3))))
        files.append(
            f"[[file]]\nname = {_quoted(f'f{at}')}\npath = {_quoted(path)}\nformat = {_quoted(form)}\n{bindings}"
        )
    return app, f'format = "normant-dialect/1"\napp = {_quoted(app)}\nversions = ">=1"\n' + "\n".join(files)


def _binding(draw: random.Random) -> str:
    setting, kind = draw.choice(SOUND)
    if draw.random() < 0.1:
        setting, kind = draw.choice([*catalogue().settings]), draw.choice(SOUND)[1]
    return f"[[file.binding]]\nsetting = {_quoted(setting)}\nat = {_quoted(draw.choice(PLACES))}\n{kind}\n"


def _path(draw: random.Random) -> str:
    path = draw.choice((*SECRETS, *STARTERS, *LINKS, *ORDINARY, "glaize/5/linked/helper.desktop", "pockle/config"))
    twist = draw.randrange(18)
    path = draw.choice(ORDINARY) if twist > 13 else path
    if twist == 0:
        path = (
            draw.choice(("corrow/8/", "x/", "./", "/", "~/", "C:\\"))
            + draw.choice(("../" * draw.randrange(4), ""))
            + path
        )
    elif twist == 1:
        path = path.upper() if draw.random() < 0.5 else path.title()
    elif twist == 2:
        at = draw.randrange(len(path))
        path = path[:at] + draw.choice("*?.\\ \u200b\u2024%~") + path[at + draw.randrange(2) :]
    elif twist == 3:
        path = path.replace("/", draw.choice(("//", "\\", "/./", "\u2215")))
    elif twist == 4:
        cut = path.split("/")
        cut[draw.randrange(len(cut))] = "*"
        path = "/".join(cut)
    elif twist == 5:
        path = path + draw.choice((".", " ", "~", ".bak", "/", ":x"))
    return path


def _order(draw: random.Random, number: str, apps: list[str], files: list[str]) -> orders.Order:
    action = _action(draw, apps, files)
    return orders.Order(number, SEAT, _SOON + dt.timedelta(hours=1), action)


def _action(draw: random.Random, apps: list[str], files: list[str]) -> Any:
    app, file = draw.choice((*apps, "corrow", "bash")), draw.choice(files)
    setting = draw.choice(("store.source_cache.path", "memory.held_back", *catalogue().settings))
    native = draw.choice(VALUES)
    change = orders.Change(setting, draw.choice(("1", "x", MARK.decode(), "")), native, native)
    items = tuple(orders.Item(draw.choice((*SECRETS, "../.bashrc", "id_ed25519")), 50, _SOON) for _ in range(2))
    folder = draw.choice(("/home/pan/.ssh", "/home/pan", "/fast/cache", "/", "/home/pan/corrow/8"))
    made: tuple[Any, ...] = (
        orders.SetPreference(app, file, (change,)),
        orders.SetPreference(app, file, (change,)),
        orders.SendFiles(app),
        orders.MoveStore(app, file, change, draw.choice(("/fast", "v1", "/")), remove_old=True),
        orders.ListStore(app, setting, 1),
        orders.ClearStore(app, setting, folder, items),
        orders.PlaceTemplate(app, file, _path(draw) or "x", (change,), "0" * 64),
        orders.PutBack(f"{draw.randrange(40)}-{draw.randrange(AT_ONCE)}"),
        orders.AskClose(app),
        orders.SetGpuPreference(app, "auto", "performance"),
    )
    action = draw.choice(made)
    return orders.Rehearse((made[0], made[3])) if draw.random() < 0.05 else action


def _quoted(text: str) -> str:
    return msgspec.json.encode(text).decode()


_SOON = dt.datetime(2026, 3, 3, 7, 12, tzinfo=dt.UTC)
