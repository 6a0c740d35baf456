"""What people have agreed to: turns of a sentence that somebody signed, by what they promised."""

from django.db.models import QuerySet, Sum

from .models import Turn


def promised_by(turn: Turn) -> int:
    """Bytes that its plan promises; of a seat no more than it may take, whatever it says."""
    if turn.clearing is None:
        return 0
    most = turn.clearing.wanted["most"]
    sizes = turn.clearing.seats.annotate(size=Sum("stores__going_size")).values_list("size", flat=True)
    return sum(min(int(size or 0), most) for size in sizes)


def agreed_turns(name: str, meaning: str) -> QuerySet[Turn]:
    """Those of this sentence, as it is now, that a person signed; the newest first."""
    signed = Turn.objects.filter(name=name, meaning=meaning, clearing__signed_by__isnull=False)
    return signed.select_related("clearing__signed_by")
