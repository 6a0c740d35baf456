"""Lists: `{"items": [...], "total": n}`, sent as they come from the database, without validating them once more."""

from collections.abc import Iterable
from typing import Any

from django.http import HttpResponse
from ninja import Schema
from pydantic import Field

from .as_json import as_json


class Page(Schema):
    """Which part of a list."""

    offset: int = Field(0, ge=0)
    limit: int = Field(200, ge=1, le=1000)

    @property
    def start(self) -> int:
        """Index of the first item."""
        return self.offset

    @property
    def end(self) -> int:
        """Index behind the last item."""
        return self.offset + self.limit


def answer(items: Iterable[Any], *, total: int | None = None) -> HttpResponse:
    """The list as JSON."""
    rows = list(items)
    return plain({"items": rows, "total": len(rows) if total is None else total})


def plain(value: Any, *, status: int = 200) -> HttpResponse:
    """Any plain value as JSON."""
    return HttpResponse(as_json(value), status=status, content_type="application/json")
