"""What the API's document says beyond the shapes: how it refuses, and how somebody is known."""

from collections.abc import Iterator
from typing import Any

from ninja import NinjaAPI, Schema
from ninja.openapi.schema import OpenAPISchema
from pydantic import ConfigDict

_REFUSALS = {
    400: "The request is not one: an unknown host, a body that is not what it says it is",
    401: "Nobody is known by this session or token",
    403: "Whoever asks may not do this",
    404: "Not found",
    408: "The body came too slowly",
    409: "Conflict: the state has changed, or does not allow this",
    413: "The body is larger than this address takes",
    422: "Something is not as expected: `faults` tells each place",
    429: "Too much at once, or too often: `Retry-After` tells when",
    503: "The database, or a worker, does not answer at this moment: try again",
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
