"""Reading a list that has arrived, once: it is the one that was planned, and its first files stand in every order."""

import datetime as dt
import hashlib
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any, Literal

from django.db import transaction

from normant.common.as_json import as_json
from normant.common.events import tell
from normant.common.problems import Problem
from normant_core.base.wording import spoken_path
from normant_core.orders.clearing import ListedFile

from ..models import FileList, ListPage, ListPart
from .keep_list import LIGHTLY, files_in

Sort = Literal["listed", "size", "oldest", "path"]
Readable = dict[str, Any]  # a file as people read it
KEYS: dict[Sort, Callable[[Readable], Any]] = {
    "size": lambda file: (-file["size"], file["path"]),
    "oldest": lambda file: (file["used"], file["path"]),
    "path": lambda file: file["path"],
}
FURTHEST = 11_000  # files that stand in each order: whoever looks for one further down searches
ON_PAGE = 500  # of them that are packed together
CLOSELY = 6  # how hard zlib packs what is read often
FIRST, LAST = (dt.datetime(year, 1, 1, tzinfo=dt.UTC).timestamp() for year in (1, 9999))  # that a date can be


@dataclass(slots=True)
class FirstFiles:
    """The first files of a list in one order, while it is read: never more than twice as many as are kept."""

    key: Callable[[Readable], Any] | None
    files: list[Readable] = field(default_factory=list)
    last: Any = None  # the key of the last file that may still be among the first

    def add(self, file: Readable) -> None:
        """One file more; without a key the first ones stay."""
        if self.key is None:
            if len(self.files) < FURTHEST:
                self.files.append(file)
            return
        if self.last is not None and self.key(file) > self.last:
            return
        self.files.append(file)
        if len(self.files) >= 2 * FURTHEST:
            self._cut()

    def _cut(self) -> None:
        if self.key is None:
            return
        self.files.sort(key=self.key)
        if len(self.files) >= FURTHEST:
            del self.files[FURTHEST:]
            self.last = self.key(self.files[-1])

    def pages(self) -> Iterator[list[Readable]]:
        """They, in their order, some hundred at a time."""
        self._cut()
        for start in range(0, len(self.files), ON_PAGE):
            yield self.files[start : start + ON_PAGE]


@transaction.atomic
def read_list(number: int) -> None:
    """Read it, or refuse it with the reason; a second time, or once it is gone, nothing happens."""
    file_list = (
        FileList.objects.select_for_update(no_key=True, of=("self",))
        .select_related("store__of")
        .filter(pk=number, state=FileList.State.READING)
        .first()
    )
    if file_list is None:
        return
    first = {sort: FirstFiles(KEYS.get(sort)) for sort in ("listed", *KEYS)}
    try:
        with transaction.atomic():
            _read(file_list, first)
    except Problem as why:
        file_list.parts.all().delete()
        file_list.state, file_list.message = FileList.State.REFUSED, str(why.detail)[:500]
    else:
        for sort, files in first.items():
            pages = enumerate(files.pages())
            ListPage.objects.bulk_create(
                ListPage(list=file_list, sort=sort, number=page, body=zlib.compress(as_json(some), CLOSELY))
                for page, some in pages
            )
        file_list.state = FileList.State.WHOLE
    file_list.save(update_fields=["state", "message"])
    tell("clearing", str(file_list.store.of.clearing_id))


def _read(file_list: FileList, first: dict[Any, FirstFiles]) -> None:
    """Check every part against what was planned, and keep it as people read it. Raises Problem."""
    hashed, count, size = hashlib.sha256(), 0, 0
    for expected, number in enumerate(file_list.parts.order_by("number").values_list("number", flat=True)):
        if number != expected:
            raise Problem(422, "Not whole", f"part {expected} of the list is missing: request it again")
        part = ListPart.objects.get(list=file_list, number=number)
        body = zlib.decompress(bytes(part.body))
        hashed.update(body)
        lines = list[bytes]()
        for listed in files_in(body):
            file = readable(listed)
            count, size = count + 1, size + file["size"]
            lines.append(as_json(file) + b"\n")
            for files in first.values():
                files.add(file)
        part.body = zlib.compress(b"".join(lines), LIGHTLY)
        part.save(update_fields=["body"])
    store = file_list.store
    if hashed.hexdigest() != store.core_planned.digest:
        raise Problem(422, "Another list", "the list has changed since it was planned: create a new plan")
    if (count, size) != (store.going, store.going_size):
        counted = f"{count:,} files of {size:,} bytes, and not the {store.going:,} files of {store.going_size:,} bytes"
        raise Problem(422, "Not as promised", f"the list has {counted} that the seat told")


def readable(file: ListedFile) -> Readable:
    """A file as people read it: bytes of its names that are no UTF-8 as `\\xNN`, and its last use as a moment."""
    used = dt.datetime.fromtimestamp(min(max(file.used, FIRST), LAST), dt.UTC).isoformat()
    names = {name: spoken_path(getattr(file, name)) for name in ("path", "production", "project")}
    return {"path": names["path"], "size": file.size, "used": used, **names}
