"""JSON as the server sends it: quickly, and whatever it holds."""

from typing import Any

import orjson

from normant_core.base.quantities import LARGEST_TOLD


def as_json(value: Any, option: int | None = None) -> bytes:
    """Return it as JSON; what JSON does not know becomes text. `option` is orjson's.

    A number beyond 64 bits, such as a sum of what lying seats tell, is written as the largest that every reader keeps.
    """
    try:
        return orjson.dumps(value, default=str, option=option)
    except orjson.JSONEncodeError:
        return orjson.dumps(_bounded(value), default=str, option=option)


def _bounded(value: Any) -> Any:
    if isinstance(value, bool) or not isinstance(value, int | dict | list | tuple):
        return value
    if isinstance(value, int):
        return max(-LARGEST_TOLD, min(LARGEST_TOLD, value))
    if isinstance(value, dict):
        return {key: _bounded(part) for key, part in value.items()}
    return [_bounded(part) for part in value]
