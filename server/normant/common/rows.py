"""The one row that somebody asked for."""

from typing import TypeVar

from django.db.models import Model, QuerySet

from .problems import Problem

M = TypeVar("M", bound=Model)


def row_or_404(rows: "QuerySet[M]", what: str, why: str) -> M:
    """The first of them. Raises Problem where there is none: `No such {what}`, and why."""
    row = rows.first()
    if row is None:
        raise Problem(404, f"No such {what}", why)
    return row
