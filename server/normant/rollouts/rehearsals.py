"""What a rehearsal told."""

from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Any

from normant.orders.models import Order
from normant.seats.floor import is_heard
from normant_core.base.wording import counted
from normant_core.catalogue.settings import catalogue

from .models import Rehearsal

WORDS = {"would_do": "would be done", "holds_it": "there already", "waits": "would wait"}


def rehearsal_object(rehearsal: Rehearsal) -> dict[str, Any]:
    """A rehearsal with what each seat said; a seat that said nothing yet has no lines."""
    orders = rehearsal.orders.select_related("seat__presence").order_by("seat__name")
    seats = [_seat(order) for order in orders]
    return {
        "id": rehearsal.pk,
        "digest": rehearsal.digest,
        "made_by": rehearsal.made_by.username,
        "made_at": rehearsal.made_at,
        "over": all(seat["told"] for seat in seats),
        "sentence": _sentence(seats),
        "seats": seats,
    }


def _seat(order: Order) -> dict[str, Any]:
    receipt = order.receipt or {}
    lines = list(_lines(order, receipt))
    return {
        "seat": order.seat.name,
        "heard": is_heard(order.seat),
        "told": order.receipt is not None,
        "message": receipt.get("message") or "",
        "lines": lines,
    }


def _lines(order: Order, receipt: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Each result with the application that it is about: results come in the order of what was asked."""
    apps: dict[str, list[str | None]] = {}
    for setting, app in order.settings:
        apps.setdefault(setting, []).append(app)
    for result in receipt.get("results", ()):
        setting, outcome = result["setting"], result["outcome"]
        known = catalogue().settings.get(setting)  # a lying seat may name one that there is not
        yield {
            "title": known.title if known else setting,
            "app": of.pop(0) if (of := apps.get(setting)) else None,
            "outcome": outcome,
            "words": result.get("message") or WORDS.get(outcome, outcome),
        }


def _sentence(seats: Iterable[dict[str, Any]]) -> str:
    """`Of 14 seats 12 answered: 29 changes would be done, two would wait, one would be refused.`"""
    asked = list(seats)
    answered = [seat for seat in asked if seat["told"]]
    how_many = f"{len(answered):,}"
    many = f"{counted(len(asked), 'seat')}: {how_many}"
    counts = Counter(line["outcome"] for seat in answered for line in seat["lines"])
    words = {
        "would_do": "would be done",
        "holds_it": "there already",
        "waits": "would wait",
        "refused": "would be refused",
        "failed": "would fail",
    }
    parts = [f"{counts[outcome]:,} {told_so}" for outcome, told_so in words.items() if counts[outcome]]
    return f"{many} answered{': ' + ', '.join(parts) if parts else ''}. No files were changed."
