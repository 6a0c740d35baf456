"""Connections that were lost when the database was restarted: each is found by the next request of its thread."""

from collections.abc import Callable

from django.db import connection
from django.http import HttpRequest
from django.http.response import HttpResponseBase

SAFE = ("GET", "HEAD")


def close_if_lost() -> bool:
    """Close this thread's connection where an error has left it unusable; whether it was.

    Nothing is asked of the database as long as no error occurred.
    """
    if not connection.errors_occurred or connection.in_atomic_block or connection.is_usable():
        return False
    connection.close()
    return True


class LostConnection:
    """Answers a safe request again, once, over a new connection. Others are answered as they failed: they may have been
    carried out."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self.get_response(request)
        if close_if_lost() and response.status_code >= 500 and request.method in SAFE:
            response.close()
            return self.get_response(request)
        return response
