"""The way to the agents' door, past everything that only browsers need."""

import logging
from collections.abc import Callable

from django.db import DataError, OperationalError, connection
from django.http import HttpRequest, HttpResponse
from django.urls import Resolver404

from normant.common.problems import Problem, database_away, not_kept, refused, respond, unforeseen
from normant_core.base.errors import DocumentError

from .urls import resolver

log = logging.getLogger(__name__)
PREFIX = "/api/v1/agent/"


class AgentDoor:
    """Answers agents itself; hands everybody else on."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not request.path.startswith(PREFIX):
            return self.get_response(request)
        try:
            match = resolver.resolve(request.path.removeprefix(PREFIX))
            answer: HttpResponse = match.func(request, **match.kwargs)
        except Resolver404:
            return respond(Problem(404, "No such door", "see docs/protocol.md for what an agent may ask"))
        except Problem as problem:
            return respond(problem)
        except OperationalError:
            connection.close()  # a broken one is not kept for the next request
            return respond(database_away())
        except DataError:
            return respond(not_kept())
        except DocumentError as error:
            return respond(refused(error, "Refused whole"))
        except Exception:
            log.exception("unforeseen", extra={"path": request.path})
            return respond(unforeseen())
        return answer
