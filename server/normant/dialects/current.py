"""The dialects, parsed once for each process."""

from functools import lru_cache

from normant_core.dialects.dialect import Dialect as CoreDialect
from normant_core.dialects.dialect import parse_dialect

from .models import Dialect


def dialects() -> list[CoreDialect]:
    """Every dialect of the house."""
    return [_dialect(text) for text in Dialect.objects.order_by("app").values_list("text", flat=True)]


@lru_cache(maxsize=256)
def _dialect(text: str) -> CoreDialect:
    return parse_dialect(text)
