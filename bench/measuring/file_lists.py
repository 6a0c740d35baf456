"""A list of a million files beside one of a thousand: what a page of it costs, a search, and reading it once."""

import hashlib
import json
import time
from collections.abc import Iterator
from statistics import median
from typing import TYPE_CHECKING
from uuid import uuid4

from ..house import enrolled_seats
from ..measure import Figure

if TYPE_CHECKING:
    from normant.clearings.models import FileList

SMALL, LARGE, IN_PART = 1_000, 1_000_000, 7_000
AT_MOST, TIMES = 3.0, 15
SORTS = ("listed", "size", "oldest", "path")


def file_lists(_seats: int) -> list[Figure]:
    """The median of pages in every order, at the beginning and far down."""
    small, large = (_arrived(files) for files in (SMALL, LARGE))
    begun = time.perf_counter()
    _read(small)
    _read(large)
    reading = time.perf_counter() - begun
    pages = {file_list.store.going: _page(file_list) for file_list in (small, large)}
    searching = _search(large)
    ratio = pages[LARGE] / pages[SMALL]
    against = (
        f"pages of {LARGE:,} files, {1000 * pages[LARGE]:.1f} ms, against those of {SMALL:,}; read once in "
        f"{reading:.0f} s, searched in {searching:.1f} s"
    )
    for file_list in (small, large):
        file_list.delete()
    return [Figure("file_lists", ratio, " times", against, ratio, f"at most {AT_MOST:g} times", ratio <= AT_MOST)]


def _arrived(count: int) -> "FileList":
    """A list of so many files, as its seat handed it in."""
    [(name, _)] = enrolled_seats(f"list-{uuid4().hex[:6]}", 1)
    from normant.clearings.models import Clearing, FileList, SeatClearing, StoreClearing  # noqa: PLC0415 (after setup)
    from normant.clearings.services.keep_list import keep_part  # noqa: PLC0415
    from normant.orders.services.issue import issue_order  # noqa: PLC0415
    from normant.seats.models import Seat  # noqa: PLC0415
    from normant_core.orders.kinds import SendList  # noqa: PLC0415

    on = SeatClearing.objects.create(
        clearing=Clearing.objects.create(title="bench", wanted={}), seat=Seat.objects.get(name=name)
    )
    hashed = hashlib.sha256()
    for part in _parts(count):
        hashed.update(part)
    digest, size = hashed.hexdigest(), sum(range(count))
    planned = {"app": "corrow", "kind": "source_cache", "going": count, "going_size": size, "digest": digest}
    store = StoreClearing.objects.create(
        of=on, place=0, kind="source_cache", planned=planned, going=count, going_size=size
    )
    order = issue_order(on.seat, SendList("p", digest), clearing=on)
    file_list: FileList = FileList.objects.create(store=store, order=order)
    for number, part in enumerate(_parts(count)):
        keep_part(on.seat, order.pk, number, part)
    FileList.objects.filter(pk=file_list.pk).update(state=FileList.State.READING)
    return file_list


def _parts(count: int) -> Iterator[bytes]:
    for first in range(0, count, IN_PART):
        files = (
            {
                "path": f"old_show/reel_{(number * 7919) % 97:02}/{(number * 104_729) % count:07}.mkv",
                "size": number, "length": number, "used": 1.7e9 - (number * 31) % count, "inode": number,
                "production": "old_show", "project": "reel",
            }
            for number in range(first, min(first + IN_PART, count))
        )  # fmt: skip
        yield b"".join(json.dumps(file).encode() + b"\n" for file in files)


def _read(file_list: "FileList") -> None:
    from normant.clearings.services.read_list import read_list  # noqa: PLC0415 (after setup)

    read_list(file_list.pk)
    file_list.refresh_from_db()
    assert file_list.state == "whole", file_list.message


def _page(file_list: "FileList") -> float:
    """Seconds of a page of a hundred files."""
    from normant.clearings.lists import Wish, files_of  # noqa: PLC0415 (after setup)

    took = list[float]()
    for number in range(TIMES):
        for sort in SORTS:
            begun = time.perf_counter()
            read = files_of(file_list, Wish(sort=sort, offset=100 * (number % 9), limit=100))  # type: ignore[arg-type]
            took.append(time.perf_counter() - begun)
            assert len(read.files) == 100
    return median(took)


def _search(file_list: "FileList") -> float:
    from normant.clearings.lists import Wish, files_of  # noqa: PLC0415 (after setup)

    begun = time.perf_counter()
    read = files_of(file_list, Wish(search="0000007", sort="size", limit=100))
    assert read.matching or read.searched < read.total
    return time.perf_counter() - begun
