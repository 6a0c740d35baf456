"""The whole house as one archive of open files."""

import csv
import io
import zipfile
from collections.abc import Iterable

import msgspec
import orjson
from django.db import transaction
from django.utils import timezone

from normant.bookings.models import Calendar
from normant.dialects.models import DialectVersion
from normant.findings.models import Waiver
from normant.ledger.models import Entry
from normant.ledger.services.record import handed_out
from normant.seats.models import Reading, Room, Seat, Survey
from normant.standards.models import Edition
from normant.templates.models import Template
from normant_core.seat.register import COLUMNS

from .measured import pack_measured
from .parts import lines
from .stored import pack_stored

LIMIT_PACKED = 256 * 1024 * 1024
LIMIT_UNPACKED = 1024 * 1024 * 1024
LIMIT_PARTS = 60_000
_ABOUT = """A house of Normant, as open files.

register.csv      seats as the register has them
floor.json        rooms in their order, seats in theirs
editions.ndjson   every published edition of the house standard, with its text (TOML)
dialects.ndjson   every text that a dialect had
surveys/          the newest survey of each seat
readings.ndjson   every reading as an interval
waivers.ndjson    what was accepted, where, why and until when
templates.ndjson  every project template that the house held, with its file under templates/
calendars.ndjson  when rooms are booked, as iCalendar
clips.ndjson      every reference clip, with its file under clips/
trials.ndjson     what was asked by runs, where, and by whom
runs.ndjson       every run of them, with what the machine did
timelines.ndjson  cuts of productions, as they were read
effects.toml      what effects, proxies and renders ahead cost
deliveries.ndjson finished exports, and which of them were signed as delivered
ended_productions.ndjson, nightly_looks.ndjson, stopped_care.ndjson
                  productions that ended, those whose projects are looked through each night, standing care that stopped
projects.ndjson   projects as they were seen last
store_days.ndjson how large every store was, from each day on at which it changed: day, bytes, items, bytes unused
clearings.ndjson  plans of clearing, what they promised and what went; not taken in again: their lists are on seats
ledger.ndjson     who did what, as `normant ledger verify` reads it; it is not taken in again: a house begins its own
"""
WAIVER = (
    "setting",
    "app",
    "seats",
    "groups",
    "reason",
    "made_at",
    "ends_at",
    "until_production",
    "ended_at",
    "ended_by",
)
TEMPLATE = ("name", "app", "productions", "file", "digest", "kept_at", "kept_by", "held_until")
CALENDAR = ("room", "name", "text", "kept_by")
_READING = ("seat__name", "setting", "app", "value", "native", "since", "until", "cause", "entered_by")


def pack() -> bytes:
    """The archive, of one moment."""
    out = io.BytesIO()
    with transaction.atomic(), zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        seats = list(Seat.objects.active().order_by("name"))
        archive.writestr("README.txt", _ABOUT)
        archive.writestr("register.csv", _register(seats))
        rooms = list(Room.objects.order_by("position").values_list("name", flat=True))
        archive.writestr("floor.json", orjson.dumps({"rooms": rooms, "places": {s.name: s.position for s in seats}}))
        editions = Edition.objects.order_by("number").values("number", "text", "note", "published_at")
        archive.writestr("editions.ndjson", lines(editions))
        versions = DialectVersion.objects.order_by("app", "number").values(
            "app", "number", "text", "kept_at", "kept_by"
        )
        archive.writestr("dialects.ndjson", lines(versions))
        for survey in (
            Survey.objects.filter(latest=True, seat__in=seats).select_related("seat").iterator(chunk_size=200)
        ):
            archive.writestr(f"surveys/{survey.seat.name}.json", bytes(survey.body))
        readings = Reading.objects.filter(seat__in=seats).order_by("seat__name", "setting", "app", "since")
        archive.writestr("readings.ndjson", lines(readings.values(*_READING).iterator(chunk_size=2000)))
        archive.writestr("waivers.ndjson", lines(Waiver.objects.order_by("id").values(*WAIVER)))
        for template in Template.objects.order_by("id"):
            archive.writestr(part_name(template.digest), bytes(template.body))
        archive.writestr("templates.ndjson", lines(Template.objects.order_by("id").values(*TEMPLATE)))
        archive.writestr("calendars.ndjson", lines(Calendar.objects.values(*CALENDAR)))
        pack_measured(archive)
        pack_stored(archive)
        entries = Entry.objects.order_by("id").iterator(chunk_size=2000)
        archive.writestr("ledger.ndjson", b"".join(msgspec.json.encode(handed_out(entry)) + b"\n" for entry in entries))
    return out.getvalue()


def _register(seats: Iterable[Seat]) -> str:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for seat in seats:
        writer.writerow([seat.name, seat.role, seat.room, seat.production, seat.hardware_class, "; ".join(seat.tags)])
    return out.getvalue()


def part_name(digest: str) -> str:
    """The part of the archive that holds a template's file."""
    return f"templates/{digest}"


def name_of_archive() -> str:
    """What the file is called."""
    return f"normant-house-{timezone.now():%Y-%m-%d}.zip"
