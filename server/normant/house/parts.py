"""How the parts of an archive are written and read: lines of JSON, and moments."""

import datetime as dt
from collections.abc import Iterable, Mapping

from django.utils import timezone
from django.utils.dateparse import parse_datetime

from normant.common.as_json import as_json


def lines(rows: Iterable[Mapping[str, object]]) -> bytes:
    """A line of JSON for each row."""
    return b"".join(as_json(row) + b"\n" for row in rows)


def moment_of(text: object) -> dt.datetime:
    """A moment as an archive writes it. Raises ValueError for one without its time zone."""
    moment = parse_datetime(str(text))
    if moment is None or timezone.is_naive(moment):
        raise ValueError(f"{text!r} is no moment with its time zone")
    return moment
