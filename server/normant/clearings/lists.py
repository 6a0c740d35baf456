"""Reading the list of what would go of a store: a page of it, a search, or all of it."""

import json
import threading
import time
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from heapq import nsmallest
from typing import Any

from normant.common.problems import Problem

from .models import FileList, ListPart
from .services.read_list import FURTHEST, KEYS, ON_PAGE, Readable, Sort

SEARCHES_SECONDS = 2.0  # that one search reads at most
WAITS_SECONDS = 5.0  # for the search of somebody else in this process
_searching = threading.Lock()


@dataclass(frozen=True, slots=True)
class Wish:
    """Which part of a list: files whose path holds `search`, so sorted, from one number to another."""

    search: str = ""
    sort: Sort = "listed"
    offset: int = 0
    limit: int = 200


@dataclass(frozen=True, slots=True)
class FilesRead:
    """Files as people read them; `matching` of `total` match, as far as `searched` says that the list was read."""

    files: list[Readable]
    matching: int
    total: int
    searched: int


def files_of(file_list: FileList, wish: Wish) -> FilesRead:
    """The files wished for. Raises Problem where others search as well, and none comes to an end."""
    total = file_list.store.going
    if not wish.search:
        return FilesRead(_pages(file_list, wish), total, total, total)
    if not _searching.acquire(timeout=WAITS_SECONDS):
        raise Problem(503, "Others search", "other searches are running: try again in a few seconds")
    try:
        return _searched(file_list, wish)
    finally:
        _searching.release()


def _pages(file_list: FileList, wish: Wish) -> list[Readable]:
    """A page costs the same of a list of any length: what stands in this order was packed when the list arrived."""
    end = min(wish.offset + wish.limit, FURTHEST)
    numbers = range(wish.offset // ON_PAGE, -(-end // ON_PAGE))
    rows = file_list.pages.filter(sort=wish.sort, number__in=numbers).order_by("number")
    files = [file for body in rows.values_list("body", flat=True) for file in json.loads(zlib.decompress(bytes(body)))]
    skipped = wish.offset - numbers.start * ON_PAGE
    return files[skipped : skipped + end - wish.offset]


def _searched(file_list: FileList, wish: Wish) -> FilesRead:
    """What matches in the part of the list that can be read within some seconds."""
    ends, searched, matching = time.monotonic() + SEARCHES_SECONDS, 0, 0
    wanted, last = wish.search.casefold(), wish.offset + wish.limit
    chosen = list[Readable]()
    for text, lines in _parts(file_list):
        matches = [file for file in _candidates(text, wanted) if wanted in file["path"].casefold()]
        matching, searched = matching + len(matches), searched + lines
        key = KEYS.get(wish.sort)
        chosen = nsmallest(last, (*chosen, *matches), key=key) if key else [*chosen, *matches][:last]
        if time.monotonic() > ends:
            break
    return FilesRead(chosen[wish.offset :], matching, file_list.store.going, searched)


def _candidates(text: str, wanted: str) -> Iterator[Readable]:
    """Files of lines that hold the words anywhere: of those few the path alone is looked at afterwards."""
    escaped = json.dumps(wanted, ensure_ascii=False)[1:-1]
    if escaped not in text.casefold():
        return
    for line in text.split("\n"):
        if escaped in line.casefold():
            yield json.loads(line)


def lines_of(file_list: FileList) -> Iterator[bytes]:
    """The whole list, a JSON object a line, a part at a time."""
    for text, _ in _parts(file_list):
        yield text.encode()


def _parts(file_list: FileList) -> Iterator[tuple[str, int]]:
    """Each part as text, with its lines; one that was forgotten meanwhile ends them."""
    for number in list(file_list.parts.order_by("number").values_list("number", flat=True)):
        part: Any = ListPart.objects.filter(list=file_list, number=number).first()
        if part is None:
            return
        yield zlib.decompress(bytes(part.body)).decode(), part.lines
