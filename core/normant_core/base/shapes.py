"""Where a document differs from its JSON Schema.

Documents are read by msgspec, which stops at the first fault. Only for a document that it refuses is the schema asked
for all faults: importing jsonschema takes longer than reading a standard.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import islice
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jsonschema import ValidationError


def shape_errors(schema: Mapping[str, Any], document: Any, limit: int) -> Iterator[ValidationError]:
    """Yield the first `limit` errors of a JSON document against a schema of draft 2020-12."""
    from jsonschema import Draft202012Validator  # noqa: PLC0415 (heavy, and needed for faulty documents only)

    return islice(Draft202012Validator(schema).iter_errors(document), limit)
