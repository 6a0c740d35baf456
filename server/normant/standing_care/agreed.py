"""What people have agreed to: turns of a sentence that somebody signed, by what they promised."""

from django.db.models import QuerySet, Sum

from .models import Turn


def promised_by(turn: Turn) -> int:
    """Bytes that its plan promises."""
    stores = turn.clearing.seats.aggregate(size=Sum("stores__going_size")) if turn.clearing else {}
    return int(stores.get("size") or 0)


def agreed_turns(name: str, meaning: str) -> QuerySet[Turn]:
    """Those of this sentence, as it is now, that a person signed; the newest first."""
    signed = Turn.objects.filter(name=name, meaning=meaning, clearing__signed_by__isnull=False)
    return signed.select_related("clearing__signed_by")
