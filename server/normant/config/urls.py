"""Addresses: the API, and the application for everything else."""

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from normant.common.problems import Problem, respond
from normant.house.calendar import feed
from normant.house.metrics import metrics

from .api import api


@ensure_csrf_cookie
def application(request: HttpRequest, rest: str = "") -> HttpResponse:
    """The interface finds its own view by the address."""
    return HttpResponse(render_to_string("index.html"), headers={"Cache-Control": "no-cache"})


def no_such_file(request: HttpRequest, rest: str = "") -> HttpResponse:
    """A file of another build: the page that asks for it is older than the server."""
    return respond(Problem(404, "No such file", "this page is out of date: reload it"))


def no_such_route(request: HttpRequest, rest: str = "") -> HttpResponse:
    """An address under /api that leads nowhere."""
    return respond(Problem(404, "No such route", f"{request.path} is not in /api/v1/openapi.json"))


urlpatterns = [
    path("api/v1/", api.urls),
    path("api/<path:rest>", no_such_route),
    path("assets/<path:rest>", no_such_file),
    path("metrics", metrics),
    path("calendar/<str:key>.ics", feed),
    re_path(r"^(?P<rest>.*)$", application),
]
