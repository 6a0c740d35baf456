"""A house from an archive of open files."""

import csv
import hashlib
import io
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import Any

import orjson
from django.core.exceptions import ValidationError
from django.db import DatabaseError, transaction

from normant.bookings.models import Calendar
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.dialects.services.keep_dialect import keep_dialect
from normant.findings.later import judge_seats
from normant.findings.models import Waiver
from normant.ledger.services.record import record
from normant.seats.models import Reading, Room, Seat, Survey
from normant.standards.models import Edition
from normant.templates.models import Template
from normant.templates.services.keep_template import check_template
from normant.trials.models import Trial
from normant_core.base.errors import DocumentError, NormantError
from normant_core.catalogue.settings import catalogue
from normant_core.rollout.bookings import LIMIT_BYTES as LIMIT_CALENDAR
from normant_core.seat.register import read_register
from normant_core.seat.survey import parse_survey
from normant_core.standard.parse import parse_published

from .. import measured, stored
from ..archive import CALENDAR, LIMIT_PARTS, LIMIT_UNPACKED, TEMPLATE, WAIVER, part_name
from ..parts import moment_of

# What Python raises over parts that are packed wrongly, and over values of another shape than ours.
_NOT_PACKED = (NotImplementedError, RuntimeError, EOFError, zlib.error, struct.error, OSError)
_WRONG_SHAPE = (ValueError, TypeError, KeyError, AttributeError, IndexError, ArithmeticError, *_NOT_PACKED)


@transaction.atomic
def unpack(raw: bytes, actor: str) -> dict[str, int]:
    """A house from an archive, all of it or nothing. Raises Problem: this house is not empty, or a file has a fault."""
    lock("register")
    if Seat.objects.exists() or Edition.objects.exists():
        message = "this house has seats or a published standard: an archive is taken into an empty house"
        raise Problem(409, "Not empty", message)
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            _check_parts(archive.infolist())
            return _unpacked(archive, actor)
    except (zipfile.BadZipFile, *_NOT_PACKED) as fault:
        raise Problem(422, "No archive", f"the file is no ZIP archive: {fault}") from fault
    except KeyError as fault:
        raise Problem(422, "No archive", f"the archive lacks a part: {fault.args[0]}") from fault


def _check_parts(parts: Sequence[zipfile.ZipInfo]) -> None:
    """Before anything is unpacked. Raises Problem."""
    if len(parts) > LIMIT_PARTS or sum(part.file_size for part in parts) > LIMIT_UNPACKED:
        most = f"at most {LIMIT_PARTS:,} parts, {LIMIT_UNPACKED:,} bytes unpacked"
        raise Problem(413, "Too large", f"the archive is larger than any house: {most}")
    for part in parts:
        if part.flag_bits & 1:
            raise Problem(422, "No archive", f"{part.filename[:80]} is encrypted: an archive is open to everybody")
        if part.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
            raise Problem(
                422, "No archive", f"{part.filename[:80]} is compressed in a way that is not read: deflate is"
            )


def _unpacked(archive: zipfile.ZipFile, actor: str) -> dict[str, int]:
    seats = _in(archive, "register.csv", _take_register)
    _in(archive, "floor.json", lambda text: _take_floor(orjson.loads(text), seats))
    editions = _in(archive, "editions.ndjson", lambda text: _take_editions(_objects(text)))
    dialects = _in(archive, "dialects.ndjson", lambda text: [keep_dialect(d["text"], actor) for d in _objects(text)])
    for name in archive.namelist():
        if name.startswith("surveys/"):
            _in(archive, name, partial(_take_survey, seats=seats, name=name))
    readings = _in(archive, "readings.ndjson", lambda text: _take_readings(_objects(text), seats))
    waivers = 0
    if "waivers.ndjson" in archive.namelist():  # archives of earlier versions have none
        waivers = _in(archive, "waivers.ndjson", lambda text: _take_waivers(_objects(text)))
    templates = 0
    if "templates.ndjson" in archive.namelist():
        templates = _in(archive, "templates.ndjson", lambda text: _take_templates(_objects(text), archive))
    if "calendars.ndjson" in archive.namelist():
        _in(archive, "calendars.ndjson", lambda text: _take_calendars(_objects(text)))
    runs = _take_measured(archive, seats, actor)
    deliveries = _take_stored(archive, seats, actor)
    judge_seats(seat.pk for seat in seats.values())
    counts = {"seats": len(seats), "editions": editions, "dialects": len(dialects), "readings": readings}
    counts |= {"waivers": waivers, "templates": templates, "runs": runs, "deliveries": deliveries}
    record(actor, "take in house", "archive", **counts)
    return counts


def _take_measured(archive: zipfile.ZipFile, seats: dict[str, Seat], actor: str) -> int:
    """What was measured, in the order in which one part rests on another; archives of earlier versions have none."""
    names, trials = archive.namelist(), dict[int, Trial]()
    runs = 0
    if measured.CLIPS in names:
        _in(archive, measured.CLIPS, lambda text: measured.take_clips(_objects(text), archive))
    if measured.TRIALS in names:
        trials = _in(archive, measured.TRIALS, lambda text: measured.take_trials(_objects(text), seats, actor))
    if measured.RUNS in names:
        runs = _in(archive, measured.RUNS, lambda text: measured.take_runs(_objects(text), trials))
    if measured.TIMELINES in names:
        _in(archive, measured.TIMELINES, lambda text: measured.take_timelines(_objects(text)))
    if measured.EFFECTS in names:
        _in(archive, measured.EFFECTS, lambda text: measured.take_effects(text, actor))
    return runs


def _take_stored(archive: zipfile.ZipFile, seats: dict[str, Seat], actor: str) -> int:
    """What is known of stores; archives of earlier versions have none of it."""
    takes: dict[str, Callable[[Iterator[dict[str, Any]]], object]] = {
        stored.DELIVERIES: lambda rows: stored.take_deliveries(rows, seats, actor),
        stored.ENDED: lambda rows: stored.take_ended(rows, actor),
        stored.PROJECTS: lambda rows: stored.take_projects(rows, seats),
        stored.NIGHTLY: lambda rows: stored.take_nightly(rows, actor),
        stored.STOPPED: lambda rows: stored.take_stopped(rows, actor),
        stored.FIGURES: lambda rows: stored.take_figures(rows, seats),
    }
    there = [name for name in takes if name in archive.namelist()]
    counts = {name: _in(archive, name, partial(_take_rows, takes[name])) for name in there}
    return int(counts.get(stored.DELIVERIES) or 0)


def _take_rows(take: Callable[[Iterator[dict[str, Any]]], object], raw: bytes) -> object:
    return take(_objects(raw))


def _in(archive: zipfile.ZipFile, name: str, take: Callable[[bytes], Any]) -> Any:
    """Take one part in; its faults name it. Raises Problem."""
    try:
        return take(archive.read(name))
    except (NormantError, DatabaseError, ValidationError, *_WRONG_SHAPE) as fault:
        if isinstance(fault, KeyError) and name not in archive.namelist():
            raise
        raise Problem(422, "Not taken in", f"{name}: {str(fault)[:600]}; nothing was taken in") from fault
    except Problem as fault:
        raise Problem(fault.status, fault.title, f"{name}: {fault.detail}; nothing was taken in") from fault


def _objects(text: bytes) -> Iterator[dict[str, Any]]:
    for number, line in enumerate(text.splitlines(), 1):
        value = orjson.loads(line)
        if not isinstance(value, dict):
            raise ValueError(f"line {number} is no object")
        yield value


def _take_register(raw: bytes) -> dict[str, Seat]:
    lines, faults = read_register(list(csv.reader(io.StringIO(raw.decode("utf-8"), newline=""))))
    if faults:
        raise DocumentError("register.csv", faults)
    made = [Seat(name=n.seat, **{k: v for k, v in n.columns.items() if k != "tags"}, tags=n.tags or []) for n in lines]
    return {seat.name: seat for seat in Seat.objects.bulk_create(made)}


def _take_floor(floor: dict[str, Any], seats: dict[str, Seat]) -> None:
    Room.objects.all().delete()
    Room.objects.bulk_create(Room(name=name, position=place) for place, name in enumerate(floor["rooms"]))
    for name, place in floor["places"].items():
        seats[name].position = place
    Seat.objects.bulk_update(seats.values(), ["position"])


def _take_editions(editions: Iterable[dict[str, Any]]) -> int:
    rows = list(editions)
    for row in rows:
        parse_published(row["text"], f"edition {row['number']}")
        edition = Edition.objects.create(number=row["number"], text=row["text"], note=row["note"])
        Edition.objects.filter(pk=edition.pk).update(published_at=moment_of(row["published_at"]))
    return len(rows)


def _take_survey(body: bytes, seats: dict[str, Seat], name: str) -> None:
    survey = parse_survey(body, name)
    Survey.objects.create(seat=seats[survey.seat], taken_at=survey.taken_at, body=body)


def _take_readings(readings: Iterable[dict[str, Any]], seats: dict[str, Seat]) -> int:
    made = [
        Reading(
            seat=seats[row["seat__name"]],
            setting=row["setting"],
            app=row["app"],
            value=catalogue()[row["setting"]].plain(catalogue()[row["setting"]].parse(row["value"])),
            native=row["native"],
            since=moment_of(row["since"]),
            until=moment_of(row["until"]) if row["until"] else None,
            cause=row["cause"],
            entered_by=row["entered_by"],
        )
        for row in readings
    ]
    if unknown := {reading.cause for reading in made} - set(Reading.CAUSES):
        raise ValueError(f"unknown cause {min(unknown)!r}")
    Reading.objects.bulk_create(made, batch_size=2000)
    return len(made)


def _take_waivers(waivers: Iterable[dict[str, Any]]) -> int:
    rows = list(waivers)
    for row in rows:
        moments = {name: moment_of(row[name]) if row[name] else None for name in ("ends_at", "ended_at")}
        plain = {name: row[name] for name in WAIVER if name not in ("made_at", *moments)}
        setting = catalogue()[row["setting"]].key
        Waiver.objects.create(**{**plain, **moments, "setting": setting, "made_at": moment_of(row["made_at"])})
    return len(rows)


def _take_calendars(calendars: Iterable[dict[str, Any]]) -> None:
    for row in calendars:
        if len(row["text"]) > LIMIT_CALENDAR:
            raise ValueError(f"the calendar of {row['room']} has more than {LIMIT_CALENDAR:,} characters")
        Calendar.objects.create(**{name: row[name] for name in CALENDAR})


def _take_templates(templates: Iterable[dict[str, Any]], archive: zipfile.ZipFile) -> int:
    rows = list(templates)
    for row in rows:
        body = archive.read(part_name(row["digest"]))
        if hashlib.sha256(body).hexdigest() != row["digest"]:
            raise ValueError(f"{part_name(row['digest'])} is not the file that its name says")
        moments = {name: moment_of(row[name]) if row[name] else None for name in ("kept_at", "held_until")}
        check_template(row["name"], row["file"], body)
        Template.objects.create(**{**{name: row[name] for name in TEMPLATE}, **moments, "body": body})
    return len(rows)
