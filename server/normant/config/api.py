"""The HTTP API under /api/v1/."""

import logging
from typing import Any

from django.core.exceptions import PermissionDenied, SuspiciousOperation
from django.db import DataError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from ninja.errors import HttpError, ValidationError

from normant.accounts.api import router as accounts
from normant.bookings.api import router as rooms
from normant.clearings.api import router as clearings
from normant.common.problems import Problem, database_away, not_kept, refused, respond, unforeseen
from normant.deliveries.api import router as deliveries
from normant.dialects.api import router as dialects
from normant.errands.api import router as errands
from normant.findings.api.drift import router as drift
from normant.findings.api.editions import router as editions
from normant.findings.api.findings import router as findings
from normant.findings.api.waivers import router as waivers
from normant.house.api import router as house
from normant.house.calendar import router as calendar
from normant.house.state import router as state
from normant.house.teach import router as teach
from normant.house.teach_stores import router as teach_stores
from normant.ledger.api import router as ledger
from normant.notices.api import router as notices
from normant.packages.api import router as packages
from normant.people.api import router as people
from normant.plans.api import router as plans
from normant.projects.api import router as projects
from normant.proposals.api import router as proposals
from normant.rollouts.api import router as rollouts
from normant.rollouts.rehearsals_api import router as rehearsals
from normant.round.api import router as the_round
from normant.seats.api import router as seats
from normant.standards.api import router as standards
from normant.standing_care.api import router as standing_care
from normant.stores.api import router as stores
from normant.stores.exports_api import router as exports
from normant.stores.house_api import router as house_stores
from normant.stores.placement_api import router as placements
from normant.templates.api import router as templates
from normant.timelines.api import router as timelines
from normant.trials.api import router as trials
from normant.trials.sheet_api import router as sheets
from normant_core import VERSION
from normant_core.base.errors import DocumentError

from .documented import Api

log = logging.getLogger(__name__)
api = Api(title="Normant", version=VERSION, openapi_url="/openapi.json", docs_url=None, urls_namespace="api")
for router in (
    accounts,
    people,
    seats,
    findings,
    waivers,
    drift,
    editions,
    standards,
    dialects,
    packages,
    the_round,
    rollouts,
    rehearsals,
    trials,
    sheets,
    timelines,
    errands,
    plans,
    rooms,
    stores,
    exports,
    house_stores,
    placements,
    deliveries,
    clearings,
    standing_care,
    projects,
    house,
    calendar,
    teach,
    teach_stores,
    templates,
    notices,
    ledger,
    proposals,
    state,
):
    api.add_router("", router)


@api.exception_handler(Problem)
def _problem(request: HttpRequest, problem: Problem) -> HttpResponse:
    return respond(problem)


@api.exception_handler(DocumentError)
def _document(request: HttpRequest, error: DocumentError) -> HttpResponse:
    return respond(refused(error, "Refused whole"))


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    faults: list[dict[str, Any]] = [
        {"path": ".".join(str(part) for part in fault["loc"][2:] or fault["loc"]), "message": fault["msg"]}
        for fault in error.errors
    ]
    message = "; ".join(f"{fault['path']}: {fault['message']}" for fault in faults)
    return respond(Problem(422, "Not as expected", message, faults=faults))


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    return respond(Problem(error.status_code, "Not as expected", str(error)))


@api.exception_handler(MultiPartParserError)
@api.exception_handler(SuspiciousOperation)
def _misshapen(request: HttpRequest, error: Exception) -> HttpResponse:
    """A form that is none, or that has more parts than anybody's."""
    return respond(Problem(400, "Not as expected", f"the body does not match its content type: {error}"))


@api.exception_handler(OperationalError)
def _away(request: HttpRequest, error: OperationalError) -> HttpResponse:
    return respond(database_away())


@api.exception_handler(DataError)
def _not_kept(request: HttpRequest, error: DataError) -> HttpResponse:
    return respond(not_kept())


@api.exception_handler(Exception)
def _unforeseen(request: HttpRequest, error: Exception) -> HttpResponse:
    log.exception("unforeseen", extra={"path": request.path})
    return respond(unforeseen())


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return respond(Problem(404, "Not found", "this address does not exist"))


@api.exception_handler(PermissionDenied)
def _denied(request: HttpRequest, error: PermissionDenied) -> HttpResponse:
    return respond(Problem(403, "Not yours to do", str(error) or "you do not have permission to do this"))
