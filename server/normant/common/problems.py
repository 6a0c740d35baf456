"""Errors over HTTP as problem documents (RFC 9457)."""

import json
import re
from collections.abc import Iterable
from typing import Any

from django.http import HttpResponse

from normant_core.base.errors import DocumentError, Fault


class Problem(Exception):
    """Something a caller can mend; `more` are members of the document of their own."""

    def __init__(self, status: int, title: str, detail: str = "", **more: Any) -> None:
        super().__init__(detail or title)
        self.status, self.title, self.detail, self.more = status, title, detail or title, more
        self.headers = dict(_HEADERS.get(status, {}))


URN = "urn:normant:problem:"
_PUBLISHED = {"No such clean-up plan": "no-such-plan-of-clearing"}  # types outlive the words of their titles
_HEADERS = {401: {"WWW-Authenticate": "Bearer"}, 429: {"Retry-After": "5"}, 503: {"Retry-After": "5"}}


def type_of(title: str) -> str:
    """The stable name of what is refused with this title; docs/problems.md lists them all."""
    return URN + (_PUBLISHED.get(title) or re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-"))


def document(problem: Problem) -> dict[str, Any]:
    """The problem as its document says it."""
    body = {"type": type_of(problem.title), "title": problem.title, "status": problem.status, "detail": problem.detail}
    return {**body, **problem.more}


def written(problem: Problem) -> bytes:
    """The document as it is sent."""
    return json.dumps(document(problem)).encode()  # takes what others refuse: numbers of any length, half characters


def respond(problem: Problem) -> HttpResponse:
    """The answer that tells it."""
    return HttpResponse(
        written(problem), status=problem.status, content_type="application/problem+json", headers=problem.headers
    )


def wrong_method(allowed: Iterable[str]) -> Problem:
    """An address that is there, asked in a way that it does not have."""
    names = ", ".join(sorted(allowed))
    problem = Problem(405, "Wrong method", f"this address accepts {names}")
    problem.headers["Allow"] = names
    return problem


def database_away() -> Problem:
    """PostgreSQL does not answer at this moment."""
    return Problem(503, "Database away", "the database does not answer; try again")


def not_kept() -> Problem:
    """For what has the right shape, and is still nothing that a database keeps."""
    return Problem(422, "Not kept", "a text contains the character NUL, or a number is too large to be stored")


def unforeseen() -> Problem:
    """A fault of ours; the log tells it."""
    return Problem(500, "This should not happen", "the server's log has the details")


def refused(error: DocumentError, title: str) -> Problem:
    """A document that was refused, with every fault and its place."""
    return Problem(422, title, str(error), faults=[fault_object(fault) for fault in error.faults])


def fault_object(fault: Fault) -> dict[str, Any]:
    """A fault as JSON."""
    return {
        "message": fault.message,
        "path": fault.path,
        "line": fault.line,
        "column": fault.column,
        "expected": fault.expected,
    }
