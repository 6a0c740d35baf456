"""Reading the house standard."""

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
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant_core.standard.parse import parse_published
from normant_core.standard.sentences import folklore_sentence, layer_sentences

from .models import Edition
from .schemas import EditionOut, StandardOut

router = Router(tags=["standard"])


@router.get("/standard", response=StandardOut, operation_id="standard", auth=Needs(Permission.SEE_HOUSE))
def standard(request: HttpRequest) -> Any:
    """The edition in force: its text, and its layers as sentences."""
    edition = Edition.objects.select_related("published_by").first()
    if edition is None:
        raise Problem(404, "No standard yet", "no edition of the house standard has been published")
    return plain(_edition_object(edition))


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
    edition = row_or_404(
        Edition.objects.select_related("published_by").filter(number=number), "edition", f"there is no edition {number}"
    )
    return plain(_edition_object(edition))


def _edition_object(edition: Edition) -> dict[str, Any]:
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
        "folklore": folklore_sentence(parsed),
        "second_person": settings.NORMANT.second_person,
        "text": edition.text,
        "layers": [msgspec.to_builtins(layer) for layer in layer_sentences(parsed)],
        "warnings": [fault_object(fault) for fault in parsed.warnings],
    }
