"""What the API's document says beyond the shapes: how it refuses, and how somebody is known."""

from collections.abc import Iterator
from typing import Any

from ninja import NinjaAPI, Schema
from ninja.openapi.schema import OpenAPISchema
from pydantic import ConfigDict

_REFUSALS = {
    400: "Bad request: an unknown host, or a body that is not of the announced type",
    401: "No account has this session or token",
    403: "The account does not have this permission",
    404: "Not found",
    408: "The body arrived too slowly",
    409: "Conflict: the state has changed, or does not allow this",
    413: "The body is larger than this address accepts",
    422: "Some input is invalid: `faults` lists each place",
    429: "Too many requests: `Retry-After` says when to try again",
    503: "The database or a worker does not answer: try again",
}
_OF_BODIES = {408, 413}
_MEDIA = "application/problem+json"
_KNOWN_BY = {
    "token": {"type": "http", "scheme": "bearer", "description": "A personal token, made on *My account*"},
    "session": {"type": "apiKey", "in": "cookie", "name": "sessionid", "description": "With X-CSRFToken to change"},
}


class ProblemDocument(Schema):
    """Why something was refused (RFC 9457); some carry `faults`, or other members of their own."""

    model_config = ConfigDict(extra="allow")

    type: str
    title: str
    status: int
    detail: str


class Api(NinjaAPI):
    """The API, whose document tells the refusals of every operation."""

    def get_openapi_schema(self, **options: Any) -> OpenAPISchema:
        """The OpenAPI document."""
        document = super().get_openapi_schema(**options)
        components = document["components"]
        components["schemas"]["Problem"] = ProblemDocument.model_json_schema()
        components["responses"] = {str(status): _response(text) for status, text in _REFUSALS.items()}
        components["securitySchemes"] = _KNOWN_BY
        doors = self._doors()
        for methods in document["paths"].values():
            for operation in methods.values():
                if doors[operation["operationId"]]:
                    operation["security"] = [{name: list[str]()} for name in _KNOWN_BY]
                for status in _refusals(operation):
                    operation["responses"].setdefault(status, {"$ref": f"#/components/responses/{status}"})
        return document

    def _doors(self) -> dict[str, bool]:
        """Operations by their name, and whether each asks who is there."""
        views = [view for bound in self._get_bound_routers() for view in bound.path_operations.values()]
        return {
            str(operation.operation_id): bool(operation.auth_param) for view in views for operation in view.operations
        }


def _refusals(operation: dict[str, Any]) -> Iterator[int]:
    for status in _REFUSALS:
        if status not in _OF_BODIES or "requestBody" in operation:
            yield status


def _response(text: str) -> dict[str, Any]:
    return {"description": text, "content": {_MEDIA: {"schema": {"$ref": "#/components/schemas/Problem"}}}}
