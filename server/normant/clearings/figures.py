"""Bytes of a clean-up: what was promised, what went from its place, what is held of it, and what is free."""

from typing import NamedTuple

from django.utils import timezone
from django.utils.dateparse import parse_datetime


class Figures(NamedTuple):
    """Bytes of a store; `held` can still be put back, `freed` is deleted."""

    promised: int = 0
    cleared: int = 0
    held: int = 0
    freed: int = 0


class Told(NamedTuple):
    """What a seat told of a store: bytes that went, until when they are held, whether it reports their deletion, bytes
    that it deleted; and whether everything was put back."""

    cleared: int | None
    held_until: str | None
    is_reported: bool | None
    deleted: int | None
    is_back: bool


def figures_of(promised: int, reported: Told) -> Figures:
    """Of a store: never more went than was promised, whatever its seat tells.

    Agents before 0.8.0 do not report when they delete: what they hold counts as free when its day is over.
    """
    went = min(reported.cleared or 0, promised)
    if reported.is_back or not went:
        return Figures(promised, went)
    until = parse_datetime(reported.held_until or "")
    if until is None:
        return Figures(promised, went, 0, went)
    if reported.deleted is not None:
        return Figures(promised, went, 0, min(reported.deleted, went))
    if not reported.is_reported and until <= timezone.now():
        return Figures(promised, went, 0, went)
    return Figures(promised, went, went, 0)


def added(first: Figures, second: Figures) -> Figures:
    """Both together."""
    return Figures(*(sum(pair) for pair in zip(first, second, strict=True)))
