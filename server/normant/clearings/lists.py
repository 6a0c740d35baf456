"""Reading the list of what would go of a store: parts as its seat handed them in, unpacked one at a time."""

import datetime as dt
import heapq
import json
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any, Literal

import orjson

from normant_core.base.errors import NormantError
from normant_core.base.wording import spoken_path

from .models import ListPart, StoreClearing

Sort = Literal["listed", "size", "oldest", "path"]
LARGEST_PART = 2 << 20  # bytes that a part unpacks to
_KEYS: dict[str, Callable[[dict[str, Any]], Any]] = {
    "size": lambda item: (-item["size"], item["path"]),
    "oldest": lambda item: (item["used"], item["path"]),
    "path": lambda item: item["path"],
}


@dataclass(frozen=True, slots=True)
class Wish:
    """Which part of a list: items whose path holds `search`, so sorted, from one number to another."""

    search: str = ""
    sort: Sort = "listed"
    offset: int = 0
    limit: int = 200


def items_of(store: StoreClearing) -> Iterator[dict[str, Any]]:
    """Every item as people read it: bytes of a path that are no UTF-8 as `\\xNN`. What is no item is left out."""
    for number in store.parts.order_by("number").values_list("number", flat=True):
        body = ListPart.objects.filter(store=store, number=number).values_list("body", flat=True).first()
        text = zlib.decompressobj().decompress(bytes(body or b""), LARGEST_PART)
        for line in text.splitlines():
            if item := _item(line):
                yield item


def _item(line: bytes) -> dict[str, Any] | None:
    """What a conquered seat hands in may be anything."""
    try:
        raw = json.loads(line)
        used = dt.datetime.fromtimestamp(float(raw["used"]), dt.UTC).isoformat()
        size = min(max(0, int(raw["size"])), 1 << 62)
        path, production, project = (spoken_path(str(raw[name])[:4096]) for name in ("path", "production", "project"))
    except (ValueError, KeyError, TypeError, OverflowError, OSError, RecursionError, NormantError):
        return None
    return {"path": path, "size": size, "used": used, "production": production, "project": project}


def part_of_list(store: StoreClearing, wish: Wish) -> tuple[list[dict[str, Any]], int, int]:
    """The items wished for, how many match, and how many there are; never more in memory than are asked for."""
    matching = total = 0

    def searched() -> Iterator[dict[str, Any]]:
        nonlocal matching, total
        wanted = wish.search.casefold()
        for item in items_of(store):
            total += 1
            if not wanted or wanted in item["path"].casefold():
                matching += 1
                yield item

    end, items = wish.offset + wish.limit, searched()
    if wish.sort == "listed":
        chosen = list(islice(items, wish.offset, end))
        for _ in items:
            pass
    else:
        chosen = heapq.nsmallest(end, items, key=_KEYS[wish.sort])[wish.offset :]
    return chosen, matching, total


def lines_of(store: StoreClearing) -> Iterator[bytes]:
    """The whole list, a JSON object a line."""
    for item in items_of(store):
        yield orjson.dumps(item) + b"\n"
