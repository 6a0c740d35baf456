"""The register, and lists as tables."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import File, Query, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.agents.services.hand_in import bring
from normant.common.documents.tables import read_table
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem, fault_object
from normant.common.schemas import FaultOut, ListOf, Moment
from normant.common.seen import Seen
from normant.findings.later import judge_seats
from normant.ledger.services.keys import fingerprint_of
from normant.seats.floor import rooms_on_floor, seen_floor
from normant.seats.models import Seat
from normant.seats.schemas import EnrolmentOut, FloorOut
from normant.seats.services.edit_register import (
    arrange,
    edit_seats,
    retired_faults,
    take_lines,
    would_change,
)
from normant.seats.services.enter_reading import enter_reading, take_back
from normant.seats.services.register import validate_role
from normant.seats.views_of import latest_views
from normant.seats.visible import seat_or_404
from normant_core.catalogue.settings import catalogue
from normant_core.seat.register import proposed_classes, read_register
from normant_core.seat.survey import LIMIT_BYTES

from .archive import LIMIT_PACKED, name_of_archive, pack
from .seat_table import MAX_ROWS, seat_table
from .services import leave_floor
from .services.unpack import unpack

router = Router(tags=["register"])
Word = Annotated[str, Field(max_length=80)]


class EditIn(Schema):
    """Columns to set on several seats; what is not given stays."""

    seats: list[str] = Field(min_length=1, max_length=10_000)
    role: Annotated[str, Field(max_length=40)] | None = None
    room: Word | None = None
    production: Word | None = None
    hardware_class: Word | None = None
    add_tags: list[Word] = Field([])
    take_tags: list[Word] = Field([])


class ReasonIn(Schema):
    """Why."""

    reason: str = Field("", max_length=300)


class RoomIn(Schema):
    """A room, and its seats in their order."""

    room: Word
    seats: list[str]


class FloorIn(Schema):
    """The floor as somebody arranged it, in place of the one that was read."""

    rooms: list[RoomIn] = Field(max_length=1000)
    seen: Seen


class CellOut(Schema):
    """A cell that changes."""

    column: str
    before: str
    after: str


class TableLineOut(Schema):
    """What a row of the table does."""

    row: int
    seat: str
    new: bool
    changes: list[CellOut]


class ImportOut(Schema):
    """What a table would do, or did; nothing at all while there is a fault."""

    rows: list[TableLineOut]
    faults: list[FaultOut]
    applied: bool


class BroughtOut(Schema):
    """The result of an uploaded file."""

    seat: str
    taken_at: Moment
    changed: bool


class ReadingIn(Schema):
    """A reading by hand, with its unit: `6 GiB`, `true`, `1/2`."""

    setting: Word
    app: str = Field("", max_length=64, pattern=r"^[A-Za-z0-9._:-]*$")
    value: Annotated[str, Field(max_length=400)] | None


class SettingOut(Schema):
    """One setting of the catalogue."""

    key: str
    title: str
    help: str
    family: str
    kind: str
    unit: str
    values: list[str]
    scope: str
    remote: bool


class TakenInOut(Schema):
    """How much an archive held."""

    seats: int
    editions: int
    dialects: int
    readings: int
    waivers: int
    templates: int
    runs: int
    deliveries: int


class ProposalOut(Schema):
    """A hardware class that likeness proposes."""

    seat: str
    now: str
    proposed: str


@router.patch("/register", response={204: None}, operation_id="edit_seats", auth=Needs(Permission.ENROL))
def edit(request: HttpRequest, given: EditIn) -> Status[None]:
    """Set columns and tags of several seats."""
    seats = [seat_or_404(name, person(request)) for name in dict.fromkeys(given.seats)]
    changes = given.model_dump(include={"role", "room", "production", "hardware_class"}, exclude_none=True)
    validate_role(given.role)
    edit_seats(seats, changes, (given.add_tags, given.take_tags), person(request).username)
    judge_seats(seat.pk for seat in seats)
    return Status(204, None)


@router.post("/register/import", response=ImportOut, operation_id="import_register", auth=Needs(Permission.ENROL))
def take_table(request: HttpRequest, table: File[UploadedFile], apply: bool = False) -> Any:
    """What a CSV or XLSX table would change, with each fault by row and column; with `apply`, all of it or nothing."""
    lines, faults = read_register(read_table(table.read()))
    faults += retired_faults(lines)
    answer = {"rows": list(would_change(lines)), "faults": [fault_object(fault) for fault in faults], "applied": False}
    if apply and not faults:
        changed = take_lines(lines, person(request).username)
        judge_seats(changed)
        answer["applied"] = True
    return plain(answer)


@router.post("/surveys", response=BroughtOut, operation_id="bring_survey", auth=Needs(Permission.BRING))
def bring_survey(request: HttpRequest, survey: File[UploadedFile]) -> Any:
    """A survey that was carried here by hand: `normant survey --out FILE` on the seat made it."""
    return plain(bring(survey.read(LIMIT_BYTES + 1), person(request).username))


@router.get("/catalogue", response=ListOf[SettingOut], operation_id="catalogue", auth=Needs(Permission.SEE_SEATS))
def settings(request: HttpRequest) -> Any:
    """Every setting that Normant knows."""
    columns = ("key", "title", "help", "family", "kind", "unit", "values", "scope", "remote")
    return answer({name: getattr(setting, name) for name in columns} for setting in catalogue().settings.values())


@router.post("/seats/{name}/readings", response={204: None}, operation_id="enter_reading", auth=Needs(Permission.BRING))
def enter(request: HttpRequest, name: str, given: ReadingIn) -> Status[None]:
    """What somebody read at the seat, where no dialect can reach; no value takes it back."""
    seat, actor = _standing(request, name), person(request).username
    if given.value is None:
        take_back(seat, given.setting, given.app, actor)
    else:
        enter_reading(seat, given.setting, given.app, text=given.value, actor=actor)
    judge_seats([seat.pk], by="theirs")
    return Status(204, None)


@router.get("/house/archive", response={200: None}, operation_id="archive", auth=Needs(Permission.MOVE_HOUSE))
def archive(request: HttpRequest) -> Any:
    """The whole house as one archive of open files."""
    packed = HttpResponse(pack(), content_type="application/zip")
    packed["Content-Disposition"] = f'attachment; filename="{name_of_archive()}"'
    return packed


@router.post("/house/archive", response=TakenInOut, operation_id="take_in_archive", auth=Needs(Permission.MOVE_HOUSE))
def take_in(request: HttpRequest, archive: File[UploadedFile]) -> Any:
    """A house from an archive, into an empty one: all of it or nothing."""
    if (archive.size or 0) > LIMIT_PACKED:
        raise Problem(413, "Too large", f"an archive has at most {LIMIT_PACKED:,} bytes")
    return plain(unpack(archive.read(), person(request).username))


class TablePage(Page):
    """Which rows of the table of seats."""

    limit: int = Field(200, ge=1, le=MAX_ROWS)


@router.get("/seat-table", response=ListOf[dict[str, Any]], operation_id="seat_table", auth=Needs(Permission.SEE_SEATS))
def table_of_seats(request: HttpRequest, page: Query[TablePage]) -> Any:
    """Return the seats you may see as a flat table: a row for each seat, a column for each fact and setting."""
    rows = Seat.objects.visible_to(person(request)).active().order_by("name")
    return answer(seat_table(rows[page.start : page.end]), total=rows.count())


@router.get("/register/classes", response=ListOf[ProposalOut], operation_id="classes", auth=Needs(Permission.SEE_HOUSE))
def classes(request: HttpRequest, every: Annotated[bool, Query()] = False) -> Any:
    """Hardware classes by likeness, where they differ from what the register says."""
    seats = {seat.name: (view.facts, seat.hardware_class) for seat, view in latest_views()}
    proposed = proposed_classes(seats)
    rows = ({"seat": name, "now": seats[name][1], "proposed": proposed[name]} for name in sorted(seats))
    return answer(row for row in rows if every or row["now"] != row["proposed"])


@router.get("/floor", response=FloorOut, operation_id="floor", auth=Needs(Permission.SEE_SEATS))
def floor(request: HttpRequest) -> Any:
    """The plan of the floor; the levels of a seat come with `/seats`."""
    rooms = rooms_on_floor(Seat.objects.visible_to(person(request)).active())
    return plain({"items": rooms, "total": len(rooms), "seen": seen_floor(rooms)})


@router.put("/floor", response={204: None}, operation_id="arrange_floor", auth=Needs(Permission.ENROL))
def arrange_floor(request: HttpRequest, given: FloorIn) -> Status[None]:
    """Rooms in their order, and the seats in each."""
    moved = arrange([(room.room, room.seats) for room in given.rooms], person(request).username, seen=given.seen)
    judge_seats(moved)
    return Status(204, None)


@router.post("/seats/{name}/retire", response={204: None}, operation_id="retire_seat", auth=Needs(Permission.ENROL))
def retire_seat(request: HttpRequest, name: str, given: ReasonIn) -> Status[None]:
    """Take a seat off the floor; its history stays."""
    seat = _standing(request, name)
    leave_floor.retire_seat(seat, person(request).username, reason=given.reason)
    return Status(204, None)


@router.post(
    "/seats/{name}/replace",
    response=EnrolmentOut,
    operation_id="replace_seat",
    auth=Needs(Permission.ENROL, shown_once=True),
)
def replace_seat(request: HttpRequest, name: str, given: ReasonIn) -> Any:
    """A new machine takes over the seat's place: a one-time code for its agent."""
    seat = _standing(request, name)
    fresh, code = leave_floor.replace_seat(seat, person(request).username, reason=given.reason)
    return plain({"seat": fresh.name, "code": code, "valid_hours": 24, "key": fingerprint_of("orders")})


def _standing(request: HttpRequest, name: str) -> Seat:
    seat = seat_or_404(name, person(request))
    if seat.retired_at:
        raise Problem(409, "Retired", f"{name} has already been retired")
    return seat
