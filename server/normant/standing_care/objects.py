"""Standing care as the API tells it."""

from collections.abc import Iterator, Mapping
from typing import Any

from django.utils import timezone

from normant.clearings.models import Clearing
from normant.clearings.objects import rows_of
from normant_core.standard.care import care_sentence, meaning, next_turn
from normant_core.standard.rule import Care, Standard
from normant_core.standard.sentences import applies

from .agreed import agreed_turns, promised_by
from .models import StoppedCare, Turn
from .seats import CaredFor, cared_for

TURNS = 8  # of a sentence that are told
Object = dict[str, Any]


def impact_of(standard: Standard) -> Iterator[Object]:
    """Each sentence of a text, on the house as it is now."""
    cared = cared_for(standard)
    for care in standard.care:
        agreed = agreed_turns(care.text.name, meaning(care)).exists()
        yield {**_care_object(care, cared[care.text.name]), "is_agreed": agreed}


def care_objects(standard: Standard) -> Iterator[Object]:
    """The sentences in force, with what became of them."""
    cared = cared_for(standard)
    stopped = {row.name: row for row in StoppedCare.objects.select_related("stopped_by")}
    for care in standard.care:
        yield _in_force(care, cared[care.text.name], stopped)


def _care_object(care: Care, cared: CaredFor) -> Object:
    return {
        "name": care.text.name,
        "layer": care.layer.name,
        "sentence": care_sentence(care.text),
        "seats": len(cared.kinds_on),
        "stores": cared.stores,
        "size": cared.size,
        "unused": cared.unused,
    }


def _in_force(care: Care, cared: CaredFor, stopped: Mapping[str, StoppedCare]) -> Object:
    name, row = care.text.name, stopped.get(care.text.name)
    turns = list(Turn.objects.filter(name=name).select_related("clearing__signed_by")[:TURNS])
    agreed = agreed_turns(name, meaning(care)).first()
    agreed_plan = agreed.clearing if agreed else None
    waits = bool(turns and turns[0].clearing and turns[0].clearing.state == Clearing.State.PLANNED)
    return {
        **_care_object(care, cared),
        "applies": applies(care.layer),
        "because": care.text.because,
        "state": "stopped" if row else "waits" if waits else "agreed" if agreed else "new",
        "next": None if row else next_turn(care.text, timezone.localtime()),
        "agreed_by": agreed_plan.signed_by.username if agreed_plan and agreed_plan.signed_by else None,
        "agreed_at": agreed_plan.signed_at if agreed_plan else None,
        "agreed_size": promised_by(agreed) if agreed else 0,
        "stopped_by": row.stopped_by.username if row else None,
        "stopped_at": row.stopped_at if row else None,
        "why": row.why if row else "",
        "turns": list(_turns(turns)),
    }


def _turns(turns: list[Turn]) -> Iterator[Object]:
    """Turns with what their plans came to."""
    plans = {row["id"]: row for row in rows_of(turn.clearing for turn in turns if turn.clearing)}
    for turn in turns:
        plan = plans.get(turn.clearing_id, {})
        yield {
            "opens": turn.opens,
            "clearing": turn.clearing_id,
            "state": plan.get("state", "none"),
            "by_itself": bool(turn.clearing and turn.clearing.signed_at and not turn.clearing.signed_by),
            "seats": plan.get("seats", 0),
            "promised": plan.get("promised", 0),
            "cleared": plan.get("cleared", 0),
            "problem": turn.problem,
        }
