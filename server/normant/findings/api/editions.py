"""Drafts of the standard, what is doubtful in a text, and what differs between editions."""

from typing import Any, Literal

import msgspec
from django.http import HttpRequest
from django.utils import timezone
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile
from pydantic import AwareDatetime, Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.documents.tables import read_table
from normant.common.lists import answer, plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.common.seen import Seen
from normant.seats.floor import silent_since
from normant.seats.models import Presence
from normant.standards.models import Draft, Edition
from normant_core.base.errors import DocumentError
from normant_core.base.quantities import UNITS
from normant_core.catalogue.settings import catalogue
from normant_core.house.contradicted import PROVEN, contradicted
from normant_core.house.lint import lint
from normant_core.judging.judge import Judge
from normant_core.judging.on_seat import on_seat
from normant_core.rules.checker import fact_titles, known_names
from normant_core.standard.edit import FIELDS, add_part, add_releases, edit_part, remove_part
from normant_core.standard.parse import parse_published, parse_standard, starter
from normant_core.standard.releases import read_releases
from normant_core.standard.rule import CareText
from normant_core.standard.sentences import changed_between

from ..models import Finding
from ..resident import resident
from ..schemas import ChangedOut, ContradictedOut, DoubtOut, DraftOut, DraftRowOut, OnSeatOut, TextOut, WordsOut
from ..services.draft import approve, change_draft, drop_draft, keep_draft, publish_draft, seen_draft

router = Router(tags=["drafts"])


class DraftText(Schema):
    """A text of the standard, and what it is about."""

    text: str = Field(max_length=400_000)
    note: str = Field("", max_length=300)


class DraftChangeIn(DraftText):
    """With what was read before it was changed."""

    seen: Seen


class SeenIn(Schema):
    """The version of the draft that was read."""

    seen: Seen


class DraftIn(DraftText):
    """The text of a draft, and the edition that it is based on."""

    base: int


class LintIn(Schema):
    """A text to check."""

    text: str = Field(max_length=400_000)


Given = bool | int | float | str | list[bool | int | float | str] | None


class RuleEditIn(LintIn):
    """A rule, or a sentence of care, of a text by its place (no place: another one of that layer), and its fields; null
    takes one away."""

    part: Literal["rule", "care"] = "rule"
    layer: int
    rule: int | None = None
    fields: dict[str, Given] = Field(default_factory=dict)
    remove: bool = False


class NormsIn(LintIn):
    """A text, and the seat to check it on."""

    seat: str


class WhenIn(SeenIn):
    """When it is published; null: now."""

    at: AwareDatetime | None = None


@router.get("/standard/drafts", response=ListOf[DraftRowOut], operation_id="drafts", auth=Needs(Permission.SEE_HOUSE))
def drafts(request: HttpRequest) -> Any:
    """Drafts that were neither published nor dropped, the last changed first."""
    rows = Draft.objects.filter(ended_at=None).select_related("made_by", "approved_by")
    return answer(draft_object(draft) for draft in rows)


@router.post("/standard/drafts", response=DraftOut, operation_id="keep_draft", auth=Needs(Permission.PUBLISH))
def keep(request: HttpRequest, given: DraftIn) -> Any:
    """Keep a text as a draft, faults and all."""
    return plain(
        draft_object(keep_draft(given.text, base=given.base, note=given.note, user=person(request)), text=True)
    )


@router.get("/standard/drafts/{number}", response=DraftOut, operation_id="draft", auth=Needs(Permission.SEE_HOUSE))
def draft_of(request: HttpRequest, number: int) -> Any:
    """A draft with its text."""
    draft = row_or_404(
        Draft.objects.select_related("made_by", "approved_by").filter(pk=number), "draft", f"there is no draft {number}"
    )
    return plain(draft_object(draft, text=True))


@router.put("/standard/drafts/{number}", response=DraftOut, operation_id="change_draft", auth=Needs(Permission.PUBLISH))
def change(request: HttpRequest, number: int, given: DraftChangeIn) -> Any:
    """Change the text of a draft: it must be approved again."""
    return plain(
        draft_object(
            change_draft(number, given.text, seen=given.seen, note=given.note, user=person(request)), text=True
        )
    )


@router.post(
    "/standard/drafts/{number}/approve",
    response=DraftOut,
    operation_id="approve_draft",
    auth=Needs(Permission.PUBLISH, in_person=True),
)
def approved(request: HttpRequest, number: int, given: SeenIn) -> Any:
    """Approve a draft that another person wrote."""
    return plain(draft_object(approve(number, person(request), seen=given.seen), text=True))


@router.post(
    "/standard/drafts/{number}/publish", response=DraftOut, operation_id="publish_draft", auth=Needs(Permission.PUBLISH)
)
def published(request: HttpRequest, number: int, given: WhenIn) -> Any:
    """Publish it now, or at a time."""
    return plain(draft_object(publish_draft(number, person(request), seen=given.seen, at=given.at), text=True))


@router.post(
    "/standard/drafts/{number}/drop", response=DraftOut, operation_id="drop_draft", auth=Needs(Permission.PUBLISH)
)
def dropped(request: HttpRequest, number: int, given: SeenIn) -> Any:
    """Discard a draft."""
    return plain(draft_object(drop_draft(number, person(request), seen=given.seen), text=True))


@router.get(
    "/standard/contradicted",
    response=ListOf[ContradictedOut],
    operation_id="contradicted",
    auth=Needs(Permission.SEE_HOUSE),
)
def contradicted_rules(request: HttpRequest) -> Any:
    """Rules of the edition in force that seats contradict while they do well."""
    now = timezone.now()
    long = Finding.objects.open().filter(opened_at__lte=now - PROVEN)
    rows = long.values_list("seat__name", "setting", "app", "opened_at")
    opened = {(seat, (setting, app or None)): since for seat, setting, app, since in rows}
    heard = {*Presence.objects.filter(seen_at__gte=silent_since()).values_list("seat__name", flat=True)}
    with resident.standing() as standing:
        rules = contradicted(standing, opened, heard, timezone.localtime(now)) if standing else []
    return answer({"at": rule.at, "seats": rule.seats, "sentence": rule.sentence} for rule in rules)


@router.post("/standard/lint", response=ListOf[DoubtOut], operation_id="lint", auth=Needs(Permission.SEE_HOUSE))
def doubts(request: HttpRequest, given: LintIn) -> Any:
    """List the warnings about a text, for today's seats."""
    standard = parse_standard(given.text)
    with resident.house() as house:
        return answer(msgspec.to_builtins(doubt) for doubt in lint(standard, house, given.text))


@router.post("/standard/edit", response=TextOut, operation_id="edit_rule", auth=Needs(Permission.PUBLISH))
def edit(request: HttpRequest, given: RuleEditIn) -> Any:
    """Return the text with a rule or an automatic clean-up changed, added or removed.

    Everything else is unchanged. An edit that would make a valid text invalid is refused with its errors.
    """
    text = _edited(given)
    if _is_valid(given.text):
        parse_standard(text)
    return plain({"text": text})


def _edited(given: RuleEditIn) -> str:
    if given.remove and given.rule is not None:
        return remove_part(given.text, given.part, given.layer, given.rule)
    if given.rule is None:
        return add_part(given.text, given.part, given.layer, given.fields)
    return edit_part(given.text, given.part, given.layer, given.rule, given.fields)


def _is_valid(text: str) -> bool:
    try:
        parse_standard(text)
    except DocumentError:
        return False
    return True


@router.post(
    "/standard/norms", response=ListOf[OnSeatOut], operation_id="norms_on_seat", auth=Needs(Permission.SEE_HOUSE)
)
def norms(request: HttpRequest, given: NormsIn) -> Any:
    """Return the result of each rule of a text on one seat."""
    judge = Judge(parse_standard(given.text, day=timezone.localdate()))
    with resident.house() as house:
        rows = house.numbers({given.seat})
        if not rows:
            raise Problem(404, "No such seat", f"{given.seat} has sent no survey")
        view = house.view(rows[0])
    return answer(msgspec.to_builtins(norm) for norm in on_seat(judge, view))


@router.post("/standard/releases", response=TextOut, operation_id="import_releases", auth=Needs(Permission.PUBLISH))
def releases(request: HttpRequest, text: Form[str], table: File[UploadedFile]) -> Any:
    """The text with the builds of a CSV or XLSX table in its list; nothing is published."""
    return plain({"text": add_releases(text, read_releases(read_table(table.read())))})


@router.get("/standard/starter", response=TextOut, operation_id="starter", auth=Needs(Permission.SEE_HOUSE))
def starting(request: HttpRequest) -> Any:
    """A standard that a new facility can adopt and edit."""
    return plain({"text": starter()})


@router.get("/standard/words", response=WordsOut, operation_id="words", auth=Needs(Permission.SEE_HOUSE))
def words(request: HttpRequest) -> Any:
    """What can be written in a standard: fields, settings, names, functions, units."""
    return plain(
        {
            "fields": list(dict.fromkeys((*FIELDS, "name", "kind", *CareText.__struct_fields__))),
            "settings": [
                {"key": s.key, "title": s.title, "values": list(s.values), "scope": s.scope}
                for s in catalogue().settings.values()
            ],
            "facts": [{"name": name, "title": title} for name, title in fact_titles().items()],
            "names": known_names(),
            "functions": ["any", "all", "count", "first", "min", "max", "round", "floor", "setting"],
            "units": [*UNITS],
        }
    )


@router.get(
    "/standard/editions/{number}/changes",
    response=ListOf[ChangedOut],
    operation_id="edition_changes",
    auth=Needs(Permission.SEE_HOUSE),
)
def changes(request: HttpRequest, number: int, since: int | None = None) -> Any:
    """List the differences between an edition and another one, in sentences; the one before it if none is named."""
    texts = dict(Edition.objects.filter(number__in=[number, since or number - 1]).values_list("number", "text"))
    if number not in texts or (since is not None and since not in texts):
        raise Problem(404, "No such edition", f"there is no edition {number if number not in texts else since}")
    after = parse_published(texts[number])
    before = parse_published(texts.get(since or number - 1, EMPTY))
    return answer(msgspec.to_builtins(changed) for changed in changed_between(before, after))


EMPTY = 'format = "normant-standard/1"\nname = "none"\n[[layer]]\nname = "none"\n'


def draft_object(draft: Draft, *, text: bool = False) -> dict[str, Any]:
    """A draft as the API tells it."""
    row: dict[str, Any] = {
        "id": draft.pk,
        "base": draft.base,
        "note": draft.note,
        "made_by": draft.made_by.username,
        "changed_at": draft.changed_at,
        "approved_by": draft.approved_by.username if draft.approved_by else None,
        "publish_at": draft.publish_at,
        "problem": draft.problem,
        "ended_at": draft.ended_at,
        "seen": seen_draft(draft),
        "edition": draft.edition.number if draft.edition else None,
    }
    return {**row, "text": draft.text} if text else row
