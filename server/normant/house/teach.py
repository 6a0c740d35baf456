"""Dialects: kept, tried on a seat's evidence or on files, and taught by example."""

import base64
from typing import Annotated, Any
from uuid import UUID

import msgspec
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.answers import answer_of
from normant.common.lists import answer, plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf, Moment
from normant.dialects.models import Dialect, DialectVersion
from normant.dialects.services.admit_dialect import keep_or_propose
from normant.orders.models import Order
from normant.orders.schemas import OrderedOut
from normant.proposals.api import ProposedOut
from normant.proposals.models import Proposal
from normant.seats.views_of import latest_survey
from normant.seats.visible import seat_or_404
from normant_core.base.errors import FileError, NormantError
from normant_core.catalogue.settings import catalogue
from normant_core.dialects.dialect import Binding, BoundFile, parse_dialect, spoken
from normant_core.dialects.edit import add_binding, written
from normant_core.dialects.lessons import (
    Learnt,
    Noise,
    Sample,
    SnapshotDifference,
    ToggledValue,
    candidates,
    difference,
    learn,
)
from normant_core.dialects.native import decode
from normant_core.dialects.preferences import read_files
from normant_core.seat.facts import Application, Facts
from normant_core.seat.survey import Native, Survey

from .services.watch_seat import watch_or_propose
from .teach_stores import paths_tried, projects_tried, stores_tried

router = Router(tags=["dialects"])
LIMIT_BYTES = 4 * 1024 * 1024  # of all files of one side of a lesson
LIMIT_FILES = 64
Path = Annotated[str, Field(max_length=400)]
Files = Annotated[dict[Path, str], Field(max_length=LIMIT_FILES)]


class KeepIn(Schema):
    """The text of a dialect, and the version that it is based on (0: new)."""

    text: str = Field(max_length=400_000)
    base: int | None = None
    admits: list[Path] = Field([], max_length=LIMIT_FILES)


class KeptOut(Schema):
    """The stored dialect."""

    app: str
    number: int


class VersionOut(Schema):
    """A text that a dialect had."""

    number: int
    text: str
    kept_at: Moment
    kept_by: str


class TryIn(Schema):
    """A dialect, and what to try it on: a seat's last survey, files (base64 by path), or paths of a store's files."""

    text: str = Field(max_length=400_000)
    seat: str = ""
    files: Files = Field({})
    paths: list[Path] = Field([], max_length=LIMIT_FILES)


class TriedOut(Schema):
    """What one binding gave."""

    setting: str
    file: str
    at: str
    native: str | None
    value: str | None
    fault: str


class LessonIn(Schema):
    """An application's files before and after one thing was toggled; `idle`: while nothing was."""

    before: Files
    after: Files
    idle: list[Files] = Field([], max_length=4)


class CandidateOut(Schema):
    """A setting that a change may be about."""

    setting: str
    title: str


@answer_of(ToggledValue)
class ToggledOut(Schema):
    """A value that was toggled, and what it may be."""

    candidates: list[CandidateOut]


@answer_of(Noise)
class NoiseOut(Schema):
    """A value that moved and says nothing."""


@answer_of(SnapshotDifference)
class LessonOut(Schema):
    """The setting that was changed, unrelated differences, and what could not be read."""


class SampleIn(Schema):
    """A sample: the content of the file while the application showed `told`."""

    native: str | None
    told: str = Field(max_length=400)


class WatchIn(Schema):
    """The seat to watch."""

    seat: str


class WatchedOut(Schema):
    """The files that a seat sent, base64 by path under its preference root."""

    here: bool
    files: Files


class LearnIn(Schema):
    """A setting at an address, with samples; `text` is the dialect to which the binding is added."""

    app: str = Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9._:-]{0,63}$")
    setting: str
    file: Path
    at: str
    format: str
    samples: list[SampleIn] = Field(min_length=1, max_length=8)
    text: str = Field("", max_length=400_000)


@answer_of(Learnt)
class LearntOut(Schema):
    """The binding, how sure it is and why, and the dialect with it."""

    binding: str
    text: str


@router.post(
    "/dialects/keep",
    response={200: KeptOut, 202: ProposedOut},
    operation_id="keep_dialect",
    auth=Needs(Permission.PUBLISH),
)
def keep(request: HttpRequest, given: KeepIn) -> Any:
    """Keep a dialect: agents learn it at their next heartbeat. 202 where it waits for a second person, or for an
    administrator, because it is about a folder that no dialect named before."""
    dialect = keep_or_propose(person(request), given.text, base=given.base, admits=given.admits)
    if isinstance(dialect, Proposal):
        return plain({"proposal": dialect.pk}, status=202)
    return plain({"app": dialect.app, "number": dialect.number})


@router.get(
    "/dialects/{app}/versions",
    response=ListOf[VersionOut],
    operation_id="dialect_versions",
    auth=Needs(Permission.SEE_HOUSE),
)
def versions(request: HttpRequest, app: str) -> Any:
    """Every text that a dialect had, the newest first."""
    return answer(DialectVersion.objects.filter(app=app).values("number", "text", "kept_at", "kept_by"))


@router.post("/dialects/try", response=ListOf[TriedOut], operation_id="try_dialect", auth=Needs(Permission.PUBLISH))
def try_dialect(request: HttpRequest, given: TryIn) -> Any:
    """What a dialect would read: from files, or from what a seat's last survey holds of them, of its stores as well."""
    dialect = parse_dialect(given.text)
    survey = latest_survey(seat_or_404(given.seat, person(request))) if given.seat else None
    facts = survey.facts if survey else Facts()
    app = facts.application(dialect.app) or Application(dialect.app)
    ours = (spoken([dialect], [app]) or [dialect])[0]
    if given.files or given.paths:
        files = _files(given.files)
        visit = read_files(ours if files else msgspec.structs.replace(ours, file=()), files, facts)
        rows = [
            _row(r.setting, r.native, catalogue()[r.setting].show(catalogue()[r.setting].parse(r.value)))
            for r in visit.readings
        ]
        rows += (_fault(error.source, error.message) for error in visit.errors)
        return answer([*rows, *projects_tried(ours, files), *paths_tried(ours, given.paths)])
    if survey is None:
        raise Problem(422, "Nothing to try it on", "select a seat with a survey, or upload files")
    evidence = (_evidence(file, binding, survey) for file in ours.file for binding in file.binding)
    return answer([*evidence, *stores_tried(ours, survey)])


@router.post("/dialects/teach", response=LessonOut, operation_id="teach", auth=Needs(Permission.PUBLISH))
def teach(request: HttpRequest, given: LessonIn) -> Any:
    """Which values were toggled between two snapshots, without the noise."""
    changes_found = difference(_files(given.before), _files(given.after), [_files(snapshot) for snapshot in given.idle])
    return plain(
        {
            "changed": [_toggled(changed) for changed in changes_found.changed],
            "noise": [{"file": n.file, "at": n.at, "why": n.why} for n in changes_found.noise],
            "unread": [list(pair) for pair in changes_found.unread],
        }
    )


@router.post(
    "/dialects/{app}/watch",
    response={200: OrderedOut, 202: ProposedOut},
    operation_id="watch_seat",
    auth=Needs(Permission.PUBLISH),
)
def watch(request: HttpRequest, app: str, given: WatchIn) -> Any:
    """Request an application's current preference files from a seat. 202 if that waits for a second person."""
    asked = watch_or_propose(seat_or_404(given.seat, person(request)), app, person(request))
    if isinstance(asked, Proposal):
        return plain({"proposal": asked.pk}, status=202)
    return plain({"order": str(asked.pk)})


@router.get(
    "/dialects/watched/{order}", response=WatchedOut, operation_id="watched_seat", auth=Needs(Permission.PUBLISH)
)
def watched(request: HttpRequest, order: UUID) -> Any:
    """What a seat that is watched has sent; `here` is false until it has answered."""
    order_row = row_or_404(Order.objects.filter(pk=order, kind="send_files"), "order", "there is no such request")
    receipt = order_row.receipt or {}
    if receipt and receipt["outcome"] != "done":
        raise Problem(409, "Not sent", receipt.get("message") or receipt["outcome"])
    return plain({"here": bool(receipt), "files": receipt.get("files", {})})


@router.post("/dialects/learn", response=LearntOut, operation_id="learn", auth=Needs(Permission.PUBLISH))
def learn_binding(request: HttpRequest, given: LearnIn) -> Any:
    """The binding that explains the samples, and the dialect's text with it."""
    if given.setting not in catalogue():
        raise Problem(422, "No such setting", f"unknown setting {given.setting!r}")
    try:
        meaning = learn(given.setting, given.at, [Sample(s.native, s.told) for s in given.samples])
    except FileError as why:
        raise Problem(422, "Not explained", str(why)) from why
    text = given.text or Dialect.objects.filter(app=given.app).values_list("text", flat=True).first() or ""
    changed = ToggledValue(given.file, given.at, given.format, None, None)
    whole = add_binding(text, changed, meaning.binding, app=given.app)
    return plain({"binding": written(meaning.binding), "sure": meaning.sure, "why": meaning.why, "text": whole})


def _toggled(changed: ToggledValue) -> dict[str, Any]:
    known = [{"setting": key, "title": catalogue()[key].title} for key in candidates(changed)]
    return {**{name: getattr(changed, name) for name in changed.__slots__}, "candidates": known}


def _evidence(file: BoundFile, binding: Binding, survey: Survey) -> dict[str, Any]:
    """A binding tried on the native text that the last survey kept of that place."""
    natives = (r.native for r in survey.readings if r.native)
    native = next((n for n in natives if file.is_at(n.file) and n.at == binding.at), None)
    if native is None:
        return _row(
            binding.setting,
            Native(file.path, binding.at, ""),
            fault="the last survey has no value: upload files",
        )
    try:
        setting = catalogue()[binding.setting]
        return _row(binding.setting, native, setting.show(decode(binding, native.raw, survey.facts)))
    except NormantError as why:
        return _row(binding.setting, native, fault=str(why))


def _row(setting: str, native: Native | None, value: str | None = None, *, fault: str = "") -> dict[str, Any]:
    file, at, raw = (native.file, native.at, native.raw) if native else ("", "", None)
    return {"setting": setting, "file": file, "at": at, "native": raw, "value": value, "fault": fault}


def _fault(source: str, message: str) -> dict[str, Any]:
    setting = source.split(":")[2] if source.count(":") == 2 else ""
    return _row(setting, None, fault=message)


def _files(given: Files) -> dict[str, bytes]:
    try:
        contents = {path: base64.b64decode(text, validate=True) for path, text in given.items()}
    except ValueError as fault:  # binascii.Error is one; signs beyond ASCII raise the plain one
        raise Problem(422, "Not base64", f"a file's bytes come as base64: {fault}") from fault
    if sum(map(len, contents.values())) > LIMIT_BYTES:
        raise Problem(413, "Too large", f"the files of a lesson have at most {LIMIT_BYTES:,} bytes")
    return contents
