"""Project templates of the house, judged as the readings of the seats that begin with them are."""

from collections.abc import Iterator
from typing import Annotated, Any

import msgspec
from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf, Moment, NativeOut, Plain, VerdictOut
from normant.findings.models import Finding
from normant.findings.resident import resident
from normant.seats.models import Reading
from normant.standards.current import current_judge
from normant_core.base.errors import FileError
from normant_core.catalogue.settings import catalogue
from normant_core.house.columns import House
from normant_core.judging.levels import in_words
from normant_core.plan.templates import Apart, Own, Stand, apart, stands
from normant_core.seat.survey import Reading as CoreReading

from .models import Template
from .services.keep_template import LARGEST, About, drop_template, keep_template, readings_of

router = Router(tags=["templates"])
Word = Annotated[str, Field(max_length=80)]


class AboutIn(Schema):
    """A template's name and productions; an empty list means all productions."""

    name: Word
    app: Annotated[str, Field(max_length=64)]
    productions: list[Word] = Field([], max_length=100)


class StandOut(Schema):
    """The same verdict on several seats; null if no rule applies there."""

    verdict: VerdictOut | None
    words: str
    seats: list[str]


class TemplateLineOut(Schema):
    """One setting of a template, its address in the file, and its status."""

    setting: str
    title: str
    reading: Plain
    shown: str
    native: NativeOut | None
    stands: list[StandOut]


class ApartOut(Schema):
    """Seats whose own file of that name says something else; `findings` are open because of it."""

    title: str
    shown: str
    seats: list[str]
    findings: list[int]


class TemplateOut(Schema):
    """A template; `fault` says why it is read no more."""

    id: int
    name: str
    app: str
    productions: list[str]
    file: str
    digest: str
    size: int
    kept_at: Moment
    kept_by: str
    seats: int
    lines: list[TemplateLineOut]
    apart: list[ApartOut]
    fault: str


@router.get("/templates", response=ListOf[TemplateOut], operation_id="templates", auth=Needs(Permission.SEE_HOUSE))
def templates(request: HttpRequest) -> Any:
    """List all project templates, with their status."""
    held = list(Template.objects.filter(held_until=None))
    if not held:
        return answer([])
    with resident.house() as house:
        return answer([_template(template, house) for template in held])


@router.post("/templates", response=TemplateOut, operation_id="keep_template", auth=Needs(Permission.PUBLISH))
def keep(request: HttpRequest, about: Form[AboutIn], file: File[UploadedFile]) -> Any:
    """Keep a template, in place of the one of that name."""
    about_it = About(about.name, about.app, about.productions)
    template = keep_template(about_it, file.name or "", file.read(LARGEST + 1), person(request).username)
    with resident.house() as house:
        return plain(_template(template, house))


@router.delete(
    "/templates/{number}", response={204: None}, operation_id="drop_template", auth=Needs(Permission.PUBLISH)
)
def drop(request: HttpRequest, number: int) -> Status[None]:
    """Delete a project template."""
    drop_template(number, person(request).username)
    return Status(204, None)


@router.get("/templates/{number}/file", response=bytes, operation_id="template_file", auth=Needs(Permission.SEE_HOUSE))
def file_of(request: HttpRequest, number: int) -> HttpResponse:
    """Download the file of a project template."""
    template = row_or_404(Template.objects.filter(pk=number), "template", f"there is no template {number}")
    answer = HttpResponse(bytes(template.body), content_type="application/octet-stream")
    answer["Content-Disposition"] = f'attachment; filename="template-{number}"'
    return answer


def _template(template: Template, house: House) -> dict[str, Any]:
    with_app = [
        house.view(number)
        for number, row in enumerate(house.rows)
        if not template.productions or row.seat.production in template.productions
        if row.facts.application(template.app)
    ]
    try:
        readings, fault = readings_of(template), ""
    except FileError as wrong:
        readings, fault = (), str(wrong)
    judge = current_judge()
    stands_here = stands(judge, template.app, readings, with_app) if judge else []
    return {
        "id": template.pk,
        "name": template.name,
        "app": template.app,
        "productions": template.productions,
        "file": template.file,
        "digest": template.digest,
        "size": len(template.body),
        "kept_at": template.kept_at,
        "kept_by": template.kept_by,
        "seats": len(with_app),
        "lines": [_line(reading, [s for s in stands_here if s.reading is reading]) for reading in readings],
        "apart": [
            _apart(difference, template.app) for difference in apart(template.file, readings, _owns(template.app))
        ],
        "fault": fault,
    }


def _line(reading: CoreReading, stands_here: list[Stand]) -> dict[str, Any]:
    setting = catalogue()[reading.setting]
    return {
        "setting": setting.key,
        "title": setting.title,
        "reading": reading.value,
        "shown": setting.show(setting.parse(reading.value)),
        "native": msgspec.to_builtins(reading.native),
        "stands": [_stand(stand) for stand in stands_here],
    }


def _stand(stand: Stand) -> dict[str, Any]:
    words = in_words(stand.verdict) if stand.verdict else "no rule applies"
    return {"verdict": msgspec.to_builtins(stand.verdict), "words": words, "seats": stand.seats}


def _apart(difference: Apart, app: str) -> dict[str, Any]:
    findings = Finding.objects.open().filter(setting=difference.setting, app=app, seat__name__in=difference.seats)
    row = {"title": catalogue()[difference.setting].title, "shown": difference.shown, "seats": difference.seats}
    return {**row, "findings": list(findings.values_list("pk", flat=True))}


def _owns(app: str) -> Iterator[Own]:
    """What the seats' own templates of an application say."""
    of_project = [key for key, setting in catalogue().settings.items() if setting.scope == "project"]
    held = Reading.objects.current().filter(app=app, setting__in=of_project, seat__retired_at=None)
    for seat, setting, value, native in held.values_list("seat__name", "setting", "value", "native"):
        yield Own(seat, setting, value, (native or {}).get("file", ""))
