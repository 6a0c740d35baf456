"""A client that holds every answer against its published shape, all the way down."""

import json
from functools import cache
from typing import Any

from django.test import Client
from django.urls import Resolver404, resolve
from jsonschema import Draft202012Validator
from pydantic import TypeAdapter


class CheckedClient(Client):
    """Django's; an answer of the API that is not shaped as its operation says fails the test that asked for it."""

    def request(self, **request: Any) -> Any:
        """Raises AssertionError for a field that is missing, of another kind, or not published."""
        response = super().request(**request)
        answer_of = _shape(request["REQUEST_METHOD"], request["PATH_INFO"], response.status_code)
        if answer_of is not None and response.headers.get("Content-Type", "").startswith("application/json"):
            faults = sorted(answer_of.iter_errors(json.loads(response.content)), key=lambda fault: fault.json_path)
            places = [f"{fault.json_path}: {fault.message[:200]}" for fault in faults[:5]]
            assert not faults, f"{request['REQUEST_METHOD']} {request['PATH_INFO']}: {places}"
        return response


def _shape(method: str, path: str, status: int) -> Draft202012Validator | None:
    """None where the address is no operation's, or its answer has no shape."""
    if not path.startswith("/api/v1/"):
        return None
    try:
        view = getattr(resolve(path).func, "__self__", None)
    except Resolver404:
        return None
    for operation in getattr(view, "operations", ()):
        if method in operation.methods:
            model = operation.response_models.get(status)
            return _validator(model.model_fields["response"].annotation) if model else None
    return None


@cache
def _validator(shape: Any) -> Draft202012Validator:
    schema = TypeAdapter(shape).json_schema(mode="serialization")
    _close(schema)
    return Draft202012Validator(schema)


def _close(part: Any) -> None:
    """Nothing may have a field that is not published."""
    if isinstance(part, dict):
        if "properties" in part:
            part["additionalProperties"] = False
        for inner in part.values():
            _close(inner)
    elif isinstance(part, list):
        for inner in part:
            _close(inner)
