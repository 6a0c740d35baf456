"""The edition in force and the dialects, parsed and compiled once for each process."""

import contextlib
import datetime as dt
from functools import lru_cache

from django.utils import timezone

from normant_core.dialect import Dialect as CoreDialect
from normant_core.dialect import parse_dialect
from normant_core.drift import Judge
from normant_core.errors import FileError
from normant_core.packages import Package as CorePackage
from normant_core.standard import parse_published
from normant_core.templates import Held, read_template

from .models import Dialect, Edition, Package, Template


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


def dialects() -> list[CoreDialect]:
    """Every dialect of the house."""
    return [_dialect(text) for text in Dialect.objects.order_by("app").values_list("text", flat=True)]


@lru_cache(maxsize=256)
def _dialect(text: str) -> CoreDialect:
    return parse_dialect(text)


def packages() -> list[CorePackage]:
    """The driver packages that plans may use."""
    held = Package.objects.filter(withdrawn_at=None)
    return [CorePackage(tuple(p.serves), p.platform, p.version, p.branch, p.digest, p.size) for p in held]


def templates() -> list[Held]:
    """The project templates that plans may place; one that its dialect reads no more is left out."""
    spoken = {dialect.app: dialect for dialect in dialects()}
    held = list[Held]()
    for one in Template.objects.filter(held_until=None, app__in=spoken):
        with contextlib.suppress(FileError):
            readings = read_template(spoken[one.app], one.file, bytes(one.body))
            held.append(Held(one.name, one.app, tuple(one.productions), one.file, one.digest, readings))
    return held
