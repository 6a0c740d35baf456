"""`script/record VERSION`: record what this version of Normant writes, for every later version to read.

A house of the demo is stopped in the middle of a rollout, a trial, a clean-up and a hold by hand. Its database, the
files of the seats that are at work and its keys are kept, with an archive, a ledger and its report, and one of each
message between agent and server. `test_recorded.py` replays the recordings; tests/recorded/README.md says how.
"""

import base64
import json
import lzma
import shutil
import subprocess
import sys
import tarfile
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any

import httpx

from normant_standin import demo as standin
from normant_standin.host import HELD, StandInHost

from .houses import REPOSITORY, Running, eventually, house
from .samples import private_key, write_messages

RECORDED = REPOSITORY / "tests" / "recorded"
POOL = {"setting": "memory.preview_pool", "app": "corrow"}
# What each seat is in the middle of, and the step at which its agent stands still.
ROLLED_OUT, FINISHED, MEASURED, CLEANED, BY_HAND = "sluice-01", "kiln-01", "pan-03", "pan-02", "pan-06"
STEPS = {ROLLED_OUT: "applying", MEASURED: "measuring", CLEANED: "applying"}
BY_HAND_STRETCH = {"what": "0:10 to 0:40", "frames": 750, "rate": 25}
SEATS = (ROLLED_OUT, FINISHED, MEASURED, CLEANED, BY_HAND)


def main() -> None:
    """Record into tests/recorded/VERSION, which must not be there yet."""
    folder = RECORDED / sys.argv[1]
    folder.mkdir(parents=True)
    recorded = house()
    recorded.ready({}, SEATS)
    state: dict[str, Any] = {"seats": SEATS, "held": STEPS, "before": _preferences(recorded), "run": str(recorded.run)}
    try:
        state["report"] = _finished_rollout(recorded)
        state["rollout"] = _rollout(recorded, ROLLED_OUT, waits=True)
        state["trial"] = _trial(recorded)
        state["clean_up"] = _clean_up(recorded)
        state["by_hand"] = _hold_by_hand(recorded)
        _keep_documents(recorded, folder, state)
        recorded.stop()
        _keep_state(recorded.run, recorded.database_url, folder)
    finally:
        recorded.close()
    key = private_key(recorded.run / "keys" / "order.key")
    state["order_key"] = key.public_key().public_bytes_raw().hex()
    write_messages(folder / "messages.ndjson", key)
    (folder / "state.json").write_text(json.dumps(state, indent=1) + "\n", "utf-8")
    print(f"{sum(path.stat().st_size for path in folder.rglob('*')):,} bytes in {folder}")


def _preferences(recorded: Running) -> dict[str, dict[str, str]]:
    """The preference files of each seat as they are before anything is done, in base64."""
    files: dict[str, dict[str, str]] = {}
    for seat in SEATS:
        folder = recorded.run / "seats" / seat / "preferences"
        paths = [path for path in folder.rglob("*") if path.is_file()]
        files[seat] = {str(p.relative_to(folder)): base64.b64encode(p.read_bytes()).decode() for p in paths}
    return files


def _rollout(recorded: Running, seat: str, *, waits: bool) -> int:
    """Start a rollout of what an order can settle on a seat; with `waits`, until the agent stands still in it."""
    if waits:
        _hold(recorded, seat)
    findings = recorded.answer(f"/findings?status=open&seat={seat}")["items"]
    ids = [finding["id"] for finding in findings if finding["setting"] != "driver.branch"]
    seen = recorded.post("/rollouts/plan", {"findings": ids})["digest"]
    number: int = recorded.post("/rollouts", {"findings": ids, "seen": seen})["id"]
    if waits:
        _until_held(recorded, seat)
    return number


def _finished_rollout(recorded: Running) -> int:
    number = _rollout(recorded, FINISHED, waits=False)
    eventually(lambda: recorded.answer(f"/rollouts/{number}")["state"] == "finished")
    return number


def _trial(recorded: Running) -> int:
    _hold(recorded, MEASURED)
    asked = {"kind": "change", "job": "play", "conditions": [{}, {"sets": [{**POOL, "value": "2 GiB"}]}]}
    number: int = recorded.post("/trials", {**asked, "seats": [MEASURED]})["id"]
    _until_held(recorded, MEASURED)
    return number


def _clean_up(recorded: Running) -> int:
    number: int = recorded.post("/clearings", {"kinds": ["renders", "backups"], "seats": [CLEANED]})["id"]
    planned = eventually(lambda: _signable(recorded, number))
    _hold(recorded, CLEANED)
    with _signed_in(recorded, "supervisor") as person:
        person.post(f"/clearings/{number}/sign", json={"seen": planned["seen"]}).raise_for_status()
    _until_held(recorded, CLEANED)
    return number


def _signable(recorded: Running, number: int) -> dict[str, Any] | None:
    plan: dict[str, Any] = recorded.answer(f"/clearings/{number}")
    return plan if plan["state"] == "planned" and plan["seen"] else None


def _hold_by_hand(recorded: Running) -> int:
    """One run by hand whose condition is set on the seat, and of which nobody has noted anything."""
    conditions = [{"sets": [{**POOL, "value": value}]} for value in ("2 GiB", "3 GiB")]
    asked = {"kind": "change", "job": "play", "conditions": conditions, "seats": [BY_HAND]}
    number: int = recorded.post("/trials", {**asked, "by_hand": BY_HAND_STRETCH})["id"]
    sheet = f"/trials/{number}/sheet/{BY_HAND}"
    run = eventually(lambda: recorded.answer(sheet)["run"])
    recorded.post(f"{sheet}/take", {"run": run["id"]})
    eventually(lambda: recorded.answer(sheet)["run"]["state"] == "set")
    return number


def _hold(recorded: Running, seat: str) -> None:
    with StandInHost(recorded.run / "seats" / seat).changed() as machine:
        machine.holds_at = STEPS[seat]


def _until_held(recorded: Running, seat: str) -> None:
    eventually((recorded.run / "seats" / seat / HELD).exists)


@contextmanager
def _signed_in(recorded: Running, role: str) -> Iterator[httpx.Client]:
    """A person of that role: some acts are done by nobody's token."""
    with httpx.Client(base_url=f"{recorded.known['address']}/api/v1", trust_env=False, timeout=90) as person:
        person.get("/session")
        person.headers["X-CSRFToken"] = person.cookies["csrftoken"]
        person.post("/session", json=recorded.known["sign_ins"][role]).raise_for_status()
        person.headers["X-CSRFToken"] = person.cookies["csrftoken"]
        yield person


def _keep_documents(recorded: Running, folder: Path, state: dict[str, Any]) -> None:
    """What people download: an archive, the ledger, a report, standard and dialects as text."""
    with _signed_in(recorded, "administrator") as person:
        downloads = {
            "house.zip": "/house/archive",
            "ledger.ndjson": "/ledger/whole",
            "report.json": f"/rollouts/{state['report']}/report?form=json",
        }
        for name, path in downloads.items():
            (folder / name).write_bytes(person.get(path).raise_for_status().read())
        (folder / "standard.toml").write_text(person.get("/standard").json()["text"], "utf-8")
    for dialect in (standin.SCENARIO / "dialects").glob("*.toml"):
        shutil.copy(dialect, folder)


def _keep_state(run: Path, url: str, folder: Path) -> None:
    """The database as SQL, and the files of seats, keys and sign-ins."""
    dumped = subprocess.run(["pg_dump", "--no-owner", "--no-privileges", url], capture_output=True, check=True)
    (folder / "database.sql.xz").write_bytes(lzma.compress(dumped.stdout, preset=9))
    with tarfile.open(folder / "files.tar.xz", "w:xz", format=tarfile.PAX_FORMAT, preset=9) as packed:
        for name in ("keys", "packages", "demo.json", "codes.json", *(f"seats/{seat}" for seat in SEATS)):
            packed.add(run / name, name, filter=partial(_anybodys, run))


def _anybodys(run: Path, info: tarfile.TarInfo) -> tarfile.TarInfo:
    """Nobody's file in particular, with when it was last used: clean-ups go by that."""
    info.uid = info.gid = 0
    info.uname = info.gname = ""
    info.pax_headers = {"atime": str((run / info.name).lstat().st_atime)}
    return info


if __name__ == "__main__":
    main()
