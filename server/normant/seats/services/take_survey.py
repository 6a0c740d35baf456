"""Taking in a survey: readings as intervals, a row only where a value changed.

One statement, because the door takes hundreds of surveys a second: the short way (agents/quick.py) runs it past Django.
"""

from collections.abc import Collection
from typing import Any

import msgspec
import orjson
from django.db import connection

from normant_core.catalogue.settings import catalogue
from normant_core.seat.facts import derived_readings
from normant_core.seat.survey import Key
from normant_core.seat.survey import Reading as CoreReading
from normant_core.seat.survey import Survey as CoreSurvey

from ..models import Seat

# What follows from the versions of what is installed: nobody chose it at the seat.
_BY_VERSION = ["system.version", "app.version", "app.edition", "driver.version", "driver.branch", "driver.released"]

# A reading by hand stays until a survey that was taken later tells it. `opened` selects from `closed`, so an open
# interval has ended before the next one of its key begins: reading_one_open and reading_no_overlap hold in between.
TAKE = """
WITH told AS MATERIALIZED (
    SELECT setting, app, value, native
      FROM jsonb_to_recordset(%(told)s::jsonb) AS t(setting text, app text, value jsonb, native jsonb)
), held AS MATERIALIZED (
    SELECT id, setting, app, value, native, cause, since FROM seats_reading WHERE seat_id = %(seat)s AND until IS NULL
), closed AS (
    UPDATE seats_reading r SET until = %(at)s
      FROM held LEFT JOIN told ON told.setting = held.setting AND told.app = held.app
     WHERE r.id = held.id AND held.since < %(at)s
       AND CASE WHEN held.cause = 'by hand' THEN told.setting IS NOT NULL
                ELSE told.setting IS NULL OR told.value IS DISTINCT FROM held.value END
    RETURNING r.setting, r.app
), moved AS (
    UPDATE seats_reading r SET native = told.native
      FROM held JOIN told ON told.setting = held.setting AND told.app = held.app
     WHERE r.id = held.id AND held.cause <> 'by hand'
       AND told.value IS NOT DISTINCT FROM held.value AND told.native IS DISTINCT FROM held.native
), opened AS (
    INSERT INTO seats_reading (seat_id, setting, app, value, native, since, cause, entered_by)
    SELECT %(seat)s, told.setting, told.app, told.value, told.native, %(at)s,
           CASE WHEN held.id IS NULL OR NOT EXISTS (SELECT FROM seats_survey WHERE seat_id = %(seat)s)
                     THEN 'first seen'
                WHEN told.setting || ' ' || told.app = ANY(%(ours)s) THEN 'ours'
                WHEN told.setting = ANY(%(by_version)s) OR told.app <> '' AND told.app IN
                     (SELECT app FROM closed WHERE setting = 'app.version') THEN 'version'
                ELSE 'at the seat' END, ''
      FROM told LEFT JOIN closed ON closed.setting = told.setting AND closed.app = told.app
                LEFT JOIN held ON held.setting = told.setting AND held.app = told.app
     WHERE held.id IS NULL OR closed.setting IS NOT NULL
), older AS (
    UPDATE seats_survey SET latest = false WHERE seat_id = %(seat)s AND latest RETURNING id
), kept AS (
    INSERT INTO seats_survey (seat_id, taken_at, received_at, body, latest)
    SELECT %(seat)s, %(at)s, now(), %(body)s, true FROM (SELECT count(*) FROM older) AS first_those
)
UPDATE seats_presence SET survey_digest = %(digest)s, taken_at = %(at)s, seen_at = clock_timestamp(),
       idle_seconds = %(idle)s, unjudged_since = least(unjudged_since, %(at)s)
 WHERE seat_id = %(seat)s
"""


def question(seat: int, survey: CoreSurvey, body: bytes, digest: bytes, ours: Collection[Key] = ()) -> dict[str, Any]:
    """What TAKE asks for a survey that is sound (normant_core.survey.parse_survey) and newer than the seat's last.

    `digest` is the SHA-256 of its content; `ours` are the readings that receipts explain. Whoever runs it holds the
    lock of the seat's presence, and sees to it that the survey is judged.
    """
    return {
        "seat": seat,
        "at": survey.taken_at,
        "idle": survey.activity.idle_seconds,
        "body": body,
        "digest": digest,
        "told": orjson.dumps(told_by(survey)).decode(),
        "ours": [f"{setting} {app or ''}" for setting, app in ours],
        "by_version": _BY_VERSION,
    }


def take_survey(seat: Seat, survey: CoreSurvey, body: bytes, digest: bytes, *, ours: Collection[Key]) -> None:
    """Keep a survey. Within the caller's transaction, with the seat's presence locked."""
    with connection.cursor() as cursor:
        cursor.execute(TAKE, question(seat.pk, survey, body, digest, ours))


def told_by(survey: CoreSurvey) -> list[dict[str, Any]]:
    """Each reading with its canonical JSON value and its native place; those that facts imply included."""
    known, seen = catalogue(), {(r.setting, r.app) for r in survey.readings}
    implied = [
        CoreReading(setting, value, app)
        for (setting, app), value in derived_readings(survey.facts).items()
        if (setting, app) not in seen
    ]
    return [
        {
            "setting": r.setting,
            "app": r.app or "",
            "value": known[r.setting].plain(known[r.setting].parse(r.value)),
            "native": msgspec.to_builtins(r.native),
        }
        for r in (*survey.readings, *implied)
    ]
