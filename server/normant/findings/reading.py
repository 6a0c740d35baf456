"""Findings that somebody asks for by their numbers."""

from collections.abc import Collection

from normant.common.problems import Problem

from .models import Finding

MOST_AT_ONCE = 5000  # findings that one plan takes


def open_findings(ids: Collection[int]) -> list[Finding]:
    """Each of them with its seat. Raises Problem where some are closed by now."""
    rows = list(Finding.objects.open().filter(pk__in=ids).select_related("seat"))
    if missing := {*ids} - {finding.pk for finding in rows}:
        message = f"{len(missing)} of these findings have been resolved: reload"
        raise Problem(409, "Findings closed", message, closed=sorted(missing))
    return rows
