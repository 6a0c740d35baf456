"""The edition in force and the dialects, parsed and compiled once for each process."""

import datetime as dt
from functools import lru_cache

from django.utils import timezone

from normant_core.judging.judge import Judge
from normant_core.standard.parse import parse_published

from .models import Edition


def current_edition() -> tuple[int, Judge] | None:
    """The edition in force: its number, and the standard compiled. None where nothing was published."""
    newest = Edition.objects.order_by("-number").values_list("pk", "number").first()
    return (newest[1], judge_of(newest[0])) if newest else None


def current_judge() -> Judge | None:
    """The standard in force, compiled; None where nothing was published."""
    edition = current_edition()
    return edition[1] if edition else None


def judge_of(edition: int) -> Judge:
    """A published edition, by its key, compiled, as it is today: releases count on their days."""
    return _judge(edition, timezone.localdate())


@lru_cache(maxsize=8)
def _judge(edition: int, day: dt.date) -> Judge:
    return Judge(parse_published(Edition.objects.get(pk=edition).text, day=day))
