"""What people have agreed to: turns of a sentence that somebody signed, by what they promised."""

from django.db.models import Q, QuerySet, Sum

from normant.clearings.authority import is_signed_by_a_person
from normant.clearings.models import Clearing

from .models import Turn


def promised_by(turn: Turn) -> int:
    """Bytes that its plan promises; of a seat no more than it may take, whatever it says."""
    if turn.clearing is None:
        return 0
    most = turn.clearing.wanted["most"]
    sizes = turn.clearing.seats.annotate(
        size=Sum("stores__going_size", filter=Q(stores__is_implausible=False))
    ).values_list("size", flat=True)
    return sum(min(int(size or 0), most) for size in sizes)


def agreed_turns(name: str, meaning: str) -> QuerySet[Turn]:
    """Those of this sentence, as it is now, that a person signed; the newest first."""
    signed = Turn.objects.filter(name=name, meaning=meaning, clearing__signed_by__isnull=False)
    return signed.select_related("clearing__signed_by")


def why_not_agreed(clearing: Clearing) -> str:
    """Why a plan may not run by itself, empty where it may: the ledger has an entry of a person who signed an earlier
    turn of the same sentence.
    """
    turn = Turn.objects.filter(clearing=clearing).first()
    if turn is None:
        return "it is not an automatic clean-up, and nobody signed it"
    for earlier in agreed_turns(turn.name, turn.meaning):
        if earlier.clearing and is_signed_by_a_person(earlier.clearing):
            return ""
    return "the ledger has no approval of this sentence"
