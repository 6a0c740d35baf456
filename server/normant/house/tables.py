"""Any list of the API as a table: `?as=csv`, `?as=xlsx` or `?as=json`."""

from collections.abc import Callable

import orjson
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from normant.common.documents.tables import TYPES, written
from normant.common.problems import Problem, respond


class AsTable:
    """Turns the answer of a list into the table that was asked for, with what the list shows and no more."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        kind = request.GET.get("as", "") if request.path.startswith("/api/v1/") and request.method == "GET" else ""
        if not kind:
            return self.get_response(request)
        if kind not in TYPES:
            return respond(Problem(422, "No such table", f"as={kind!r}: expected one of {', '.join(TYPES)}"))
        answer = self.get_response(request)
        if answer.status_code != 200 or answer["Content-Type"] != "application/json":
            return answer
        body = orjson.loads(answer.content)
        if not isinstance(body, dict) or not isinstance(body.get("items"), list):
            return respond(Problem(422, "No list", f"{request.path} is no list: only lists are given as tables"))
        name = f"normant-{request.path.strip('/').split('/')[-1]}-{timezone.now():%Y-%m-%d}.{kind}"
        table = HttpResponse(written(body["items"], kind), content_type=TYPES[kind])
        table["Content-Disposition"] = f'attachment; filename="{name}"'
        return table
