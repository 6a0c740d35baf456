"""One of each message between agent and server, as bytes: every kind of order, signed; and what agents send."""

import base64
import datetime as dt
import enum
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from msgspec import inspect

from normant_core.orders import kinds
from normant_core.orders.kinds import Order, Progress, Receipt, Refusal, SignedOrder
from normant_core.seat.survey import Survey

MOMENT = "2026-12-01T09:30:00Z"
WORDS = ("a", "0" * 64, "0" * 40, "v1", "12.3.0", "25", "8.3.1", "/a", "a/b", "1/2", "avc/8/420", MOMENT, "2026-12-01")


def private_key(path: Path) -> Ed25519PrivateKey:
    """The key in a house's file."""
    return Ed25519PrivateKey.from_private_bytes(path.read_bytes())


def write_messages(path: Path, key: Ed25519PrivateKey) -> None:
    """Write a line of JSON for each message: its type, the kind of an order, and its bytes as text."""
    lines = [json.dumps(message, ensure_ascii=False) for message in messages(key)]
    path.write_text("".join(f"{line}\n" for line in lines), "utf-8")


def messages(key: Ed25519PrivateKey) -> Iterator[dict[str, str]]:
    """Yield every message, each with every field filled."""
    for action in kinds.Action.__args__:
        order = Order("0" * 32, "pan-03", dt.datetime.fromisoformat(MOMENT), sample(action))
        body = msgspec.json.encode(order)
        signed = SignedOrder(body, key.sign(body))
        yield {"type": "order", "kind": action.__struct_config__.tag, "bytes": msgspec.json.encode(signed).decode()}
    for message in (Receipt, Progress, Refusal, Survey):
        yield {"type": message.__name__.lower(), "bytes": msgspec.json.encode(sample(message)).decode()}


def sample(struct: Any) -> Any:
    """Return a struct in which no field is left out. Raises ValueError for a field that has no sample."""
    return msgspec.convert(_filled(inspect.type_info(struct)), struct)


def _filled(info: Any) -> Any:  # noqa: PLR0912 (a case for each kind of type)
    match info:
        case inspect.Metadata(type=kind, extra_json_schema=more):
            pattern = (more or {}).get("pattern", "")
            return next(word for word in WORDS if re.search(pattern, word)) if pattern else _filled(kind)
        case inspect.StructType(cls=cls, fields=fields, tag=tag, tag_field=tag_field):
            made = {field.encode_name: _filled(field.type) for field in fields}
            return made | ({tag_field: tag} if tag_field else {})
        case inspect.UnionType(types=types):
            return _filled(next(kind for kind in types if not isinstance(kind, inspect.NoneType)))
        case inspect.ListType(item_type=item) | inspect.VarTupleType(item_type=item):
            return [_filled(item)]
        case inspect.TupleType(item_types=items):
            return [_filled(item) for item in items]
        case inspect.DictType(key_type=key, value_type=value):
            return {_filled(key): _filled(value)}
        case inspect.LiteralType(values=values):
            return values[0]
        case inspect.EnumType(cls=cls):
            return next(iter(cls)).value if issubclass(cls, enum.Enum) else None
        case inspect.StrType():
            return next(word for word in WORDS if _fits(word, info))
        case inspect.BytesType():
            return base64.b64encode(b"a").decode()
        case inspect.DateTimeType():
            return MOMENT
        case inspect.DateType():
            return MOMENT[:10]
        case inspect.BoolType():
            return True
        case inspect.IntType(ge=least) | inspect.FloatType(ge=least):
            return max(1, least or 0)
        case inspect.AnyType() | inspect.RawType() | inspect.CustomType():
            return "a"
    raise ValueError(f"there is no sample of {info}")


def _fits(word: str, info: inspect.StrType) -> bool:
    short = info.max_length is None or len(word) <= info.max_length
    return short and len(word) >= (info.min_length or 0) and (not info.pattern or bool(re.search(info.pattern, word)))
