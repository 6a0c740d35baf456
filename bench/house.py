"""Houses made for measuring."""

import datetime as dt
import hashlib
import json
import os
import statistics
import time
from collections.abc import Iterator
from urllib.parse import quote

import django
import httpx

from .measure import EXAMPLES, Figure
from .serving import BARE, serving, uvicorn


def set_up() -> None:
    """Django, with the schema of today."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "normant.config.settings")
    django.setup()
    from django.core.management import call_command  # noqa: PLC0415 (after setup)

    call_command("migrate", verbosity=0)


def with_standard() -> None:
    """See that the worked standard is in force: surveys are judged."""
    from normant.findings.services.publish import publish  # noqa: PLC0415 (after setup)
    from normant.standards.models import Edition  # noqa: PLC0415 (after setup)

    if not Edition.objects.exists():
        publish((EXAMPLES / "house.standard.toml").read_text("utf-8"), base=0, note="", user=None)


def enrolled_seats(prefix: str, count: int) -> Iterator[tuple[str, str]]:
    """Fresh seats, each with its agent's token."""
    set_up()
    from normant.seats.services.enrol import offer_enrolment, redeem  # noqa: PLC0415 (after setup)
    from normant.seats.services.register import Place, register  # noqa: PLC0415

    mark = time.time_ns()
    for number in range(count):
        seat = register(f"{prefix}-{mark}-{number}", Place("offline"), "bench")
        yield seat.name, redeem(offer_enrolment(seat, "bench"))[1]


THREADS = 12  # of a web process: each opens a connection with its first request
BENCH = "bench"  # the name and the password of somebody who looks on
MOMENT = dt.timedelta(days=10)  # how far back "as of" looks
ASKS = {
    "floor": "/api/v1/floor",
    "levels": "/api/v1/seats?" + "&".join(f"name=gen-{n:05}" for n in range(80)),
    "findings": "/api/v1/findings?status=open",
    "seat": "/api/v1/seats/{seat}",
    "seat as of": "/api/v1/seats/{seat}?at={at}",
    "round": "/api/v1/round",
    "house as of": "/api/v1/readings?setting=memory.held_back&app=corrow&limit=20000&at={at}",
}
# Times what bare ASGI takes for an answer of as many bytes, medians of both.
BARS = {"floor": 40, "levels": 20, "findings": 60, "seat": 20, "seat as of": 20, "round": 200, "house as of": 80}
ROUND = 3  # times the floor


def house(seats: int = 10_000) -> list[Figure]:
    """A generated house of that many seats, and how long what the screens ask of it takes."""
    token = generated(seats)
    at = quote((dt.datetime.now(dt.UTC) - MOMENT).isoformat())
    figures = []
    with serving() as address, uvicorn("bare", BARE) as yard, httpx.Client(trust_env=False, timeout=60) as client:
        client.headers["Authorization"] = f"Bearer {token}"
        for name, path in ASKS.items():
            urls = [address + path.format(seat=f"gen-{n * 7 % seats:05}", at=at) for n in range(THREADS + 40)]
            rounds = [_both(client, url, yard) for url in urls][THREADS:]
            ours, bare = (statistics.median(column) for column in zip(*rounds, strict=True))
            size = len(client.get(urls[-1]).content)
            against = f"bare ASGI ({bare:.1f} ms), {size / 1e3:.0f} kB, at {seats:,} seats"
            figures.append(Figure.at_most(name, ours, "ms", against, ours / bare, BARS[name]))
        pairs = [[_taken(client, address + ASKS[name])[0] for name in ("round", "floor")] for _ in range(40)]
    ours, floor = (statistics.median(column) for column in zip(*pairs, strict=True))
    return [*figures, Figure.at_most("round", ours, "ms", "the floor of the same seats", ours / floor, ROUND)]


def _both(client: httpx.Client, url: str, yard: str) -> tuple[float, float]:
    """Milliseconds of an answer, and of as many bytes from the yardstick right after it."""
    ours, size = _taken(client, url)
    return ours, _taken(client, f"{yard}/?bytes={size}")[0]


def _taken(client: httpx.Client, url: str) -> tuple[float, int]:
    """Milliseconds of an answer, and its bytes."""
    begun = time.perf_counter()
    answer = client.get(url)
    taken = time.perf_counter() - begun
    assert answer.status_code == 200, answer.text
    return taken * 1e3, len(answer.content)


def generated(count: int) -> str:
    """Seats that are like the worked one, in rows made by the database; a token to ask with."""
    set_up()
    from django.db import connection  # noqa: PLC0415 (after setup)

    from normant.accounts.models import AccessToken, User  # noqa: PLC0415 (after setup)
    from normant.agents.services.hand_in import hand_in  # noqa: PLC0415 (after setup)

    with_standard()
    with connection.cursor() as cursor:
        cursor.execute("TRUNCATE seats_seat CASCADE")  # seats of earlier runs would be measured as well
    name, token = next(enrolled_seats("model", 1))
    body = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())
    for days in (20, 5):
        taken = (dt.datetime.now(dt.UTC) - dt.timedelta(days=days)).isoformat()
        readings = [{**r, "value": 2**30 * days} if r["setting"] == "memory.held_back" else r for r in body["readings"]]
        raw = json.dumps({**body, "seat": name, "taken_at": taken, "readings": readings}).encode()
        hand_in(hashlib.sha256(token.encode()).hexdigest(), raw)
    with connection.cursor() as cursor:
        for statement in _COPIES:
            cursor.execute(statement, {"model": name, "count": count})
        cursor.execute("VACUUM ANALYZE")  # now, and not while something is measured
    user, _ = User.objects.get_or_create(username=BENCH, defaults={"role": "supervisor"})
    user.set_password(BENCH)
    user.save()
    return AccessToken.make(user, f"bench {time.time_ns()}")


# Every row of the model that hangs on a seat, once for each generated seat.
_OF_SEAT = {
    "seats_presence": "enrolled_at, survey_digest, taken_at, seen_at, idle_seconds",
    "seats_survey": "taken_at, received_at, body, latest",
    "seats_reading": "setting, app, value, native, since, until, cause, entered_by",
    "findings_finding": "setting, app, severity, verdict, cause, opened_at, opened_by, closed_at, closed_by",
}
_COPIES = (
    """INSERT INTO seats_seat (name, role, room, production, hardware_class, tags, position, levels, off_norm)
       SELECT format('gen-%%s', lpad(n::text, 5, '0')), role, 'Hall ' || n / 40, 'Show ' || n %% 30, '', tags, n,
              levels, off_norm
         FROM seats_seat, generate_series(0, %(count)s - 1) n WHERE name = %(model)s""",
    *(
        f"""INSERT INTO {table} (seat_id, {columns})
            SELECT s.id, {", ".join(f"one.{column}" for column in columns.split(", "))}
              FROM seats_seat s, {table} one JOIN seats_seat m ON m.id = one.seat_id
             WHERE m.name = %(model)s AND s.name LIKE 'gen-%%'"""
        for table, columns in _OF_SEAT.items()
    ),
)
