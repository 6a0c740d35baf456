"""An unchanged survey: at the database, and as a whole request to a running server."""

import datetime as dt
import json
import os
import statistics
import time
from collections.abc import Iterator
from typing import Any

import httpx
import psycopg

from .house import enrolled_seats
from .measure import EXAMPLES, Figure, paired
from .serving import BARE, serving, uvicorn


def unchanged() -> Figure:
    """The statement of an unchanged survey against a bare, committed update of one row."""
    _, body = _house()
    from normant.agents.services.hand_in import AHEAD, UNCHANGED  # noqa: PLC0415 (Django is set up by now)
    from normant.seats.models import Presence  # noqa: PLC0415

    seat = Presence.objects.get(seat__name=body["seat"])
    with psycopg.connect(os.environ["DATABASE_URL"], autocommit=True) as connection:
        connection.execute("CREATE TABLE IF NOT EXISTS bare (id int PRIMARY KEY, n int) WITH (fillfactor = 50)")
        connection.execute("INSERT INTO bare VALUES (1, 0) ON CONFLICT DO NOTHING")
        moments = _moments()

        def survey() -> None:
            at = next(moments)
            digest = bytes(seat.survey_digest or b"")
            result = connection.execute(UNCHANGED, [at, 5400, seat.token_digest, digest, at, at, AHEAD])
            assert result.fetchone() is not None

        ours, bare = paired(survey, lambda: connection.execute("UPDATE bare SET n = n + 1 WHERE id = 1"), times=100)
        wal = _wal(connection, survey)
    against = f"a bare committed update ({wal:.0f} B of WAL each)"
    return Figure.at_most("unchanged", ours * 1e3, "ms", against, ours / bare, 2)


def request() -> Figure:
    """The whole request of an unchanged survey, over HTTP to uvicorn on loopback."""
    token, body = _house()
    moments = _moments(dt.timedelta(minutes=1))
    with serving() as address, uvicorn("bare", BARE) as yard, httpx.Client(trust_env=False) as client:
        headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}

        def send(to: str) -> float:
            content = json.dumps({**body, "taken_at": next(moments).isoformat()})
            begun = time.perf_counter()
            answer = client.post(f"{to}/api/v1/agent/survey", content=content, headers=headers)
            taken = time.perf_counter() - begun
            assert answer.is_success and (to == yard or answer.json()["changed"] is False), answer.text
            return taken

        pairs = [(send(address), send(yard)) for _ in range(400)][40:]
    ours, bare = (statistics.median(column) * 1e3 for column in zip(*pairs, strict=True))
    return Figure.at_most("request", ours, "ms", f"the same to bare ASGI ({bare:.1f} ms)", ours / bare, 5)


def _house() -> tuple[str, dict[str, Any]]:
    """A fresh seat that has sent the worked survey: its token, and the survey."""
    name, token = next(enrolled_seats("bench", 1))
    from normant.accounts.models import hashed  # noqa: PLC0415 (Django is set up by now)
    from normant.agents.services.hand_in import hand_in  # noqa: PLC0415

    body = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())
    body |= {"seat": name, "taken_at": (dt.datetime.now(dt.UTC) - dt.timedelta(hours=2)).isoformat()}
    hand_in(hashed(token), json.dumps(body).encode())
    return token, body


def _moments(later: dt.timedelta = dt.timedelta()) -> Iterator[dt.datetime]:
    """Moments that go forward, within the last hour."""
    moment = dt.datetime.now(dt.UTC) - dt.timedelta(hours=1) + later
    while True:
        moment += dt.timedelta(milliseconds=10)
        yield moment


def _wal(connection: "psycopg.Connection[Any]", act: Any, times: int = 200) -> float:
    """Bytes of write-ahead log of one act."""
    where = "SELECT pg_current_wal_insert_lsn()"
    before = connection.execute(where).fetchone()
    for _ in range(times):
        act()
    after = connection.execute("SELECT pg_wal_lsn_diff(pg_current_wal_insert_lsn(), %s)", [before[0]]).fetchone()  # type: ignore[index]
    return float(after[0]) / times  # type: ignore[index]
