"""Reading the house standard and the dialects."""

from typing import Any

import msgspec
from django.conf import settings
from django.db.models import F
from django.http import HttpRequest
from ninja import Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.problems import Problem, fault_object
from normant.common.schemas import ListOf
from normant_core.sentences import folklore_told, layers_told
from normant_core.standard import parse_published

from .models import Dialect, Edition
from .schemas import DialectOut, EditionOut, StandardOut

router = Router(tags=["standard"])


@router.get("/standard", response=StandardOut, operation_id="standard", auth=Needs(Permission.SEE_HOUSE))
def standard(request: HttpRequest) -> Any:
    """The edition in force: its text, and its layers as sentences."""
    edition = Edition.objects.select_related("published_by").first()
    if edition is None:
        raise Problem(404, "No standard yet", "nobody has published an edition of the house standard")
    return plain(_told(edition))


@router.get(
    "/standard/editions", response=ListOf[EditionOut], operation_id="editions", auth=Needs(Permission.SEE_HOUSE)
)
def editions(request: HttpRequest) -> Any:
    """Every published edition, newest first, without its text."""
    named = {"published_by": F("published_by__username")}
    return answer(Edition.objects.values("number", "note", "published_at").annotate(**named))


@router.get(
    "/standard/editions/{number}", response=StandardOut, operation_id="edition", auth=Needs(Permission.SEE_HOUSE)
)
def edition_of(request: HttpRequest, number: int) -> Any:
    """One edition, whole."""
    found = Edition.objects.select_related("published_by").filter(number=number).first()
    if found is None:
        raise Problem(404, "No such edition", f"there is no edition {number}")
    return plain(_told(found))


@router.get("/dialects", response=ListOf[DialectOut], operation_id="dialects", auth=Needs(Permission.SEE_HOUSE))
def dialects(request: HttpRequest) -> Any:
    """How each application keeps its preferences."""
    return answer(Dialect.objects.order_by("app").values("app", "text", "number", "changed_at"))


def _told(edition: Edition) -> dict[str, Any]:
    parsed = parse_published(edition.text)
    return {
        "number": edition.number,
        "name": parsed.name,
        "note": edition.note,
        "published_at": edition.published_at,
        "published_by": edition.published_by.username if edition.published_by else None,
        "judged": edition.judged,
        "of": edition.of,
        "followed_at": edition.followed_at,
        "folklore": folklore_told(parsed),
        "second_person": settings.NORMANT_SECOND_PERSON,
        "text": edition.text,
        "layers": [msgspec.to_builtins(layer) for layer in layers_told(parsed)],
        "warnings": [fault_object(fault) for fault in parsed.warnings],
    }
