"""Finished exports that may be deliveries: files of an application's store of exports whose names tell their project.

A file is finished when nobody has it open, and nobody wrote to it for a while. It is hashed once, and told of once.
"""

import datetime as dt
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from normant_core.care.belonging import Belonging
from normant_core.orders.clearing import Finished

from .care.open_files import open_files
from .care.walk import Ident, Seen, walk
from .errors import HostError, Refused
from .files import digest_of
from .orders.stores import named_folder, store_at
from .orders.work import Work

RESTS = dt.timedelta(minutes=10)  # since it was written to
MOST = 20  # exports that are hashed and told of at once: the next look takes the next ones
MOST_LOOKED = 20_000  # files of a store that are looked at
LONGEST = 400  # characters of a path that is told
LONGEST_NAME = 120  # characters of a production or project: a shortened name could be that of another one


@dataclass(frozen=True, slots=True)
class NamedExport:
    """A file whose name tells its project; `key` tells it from what bore its name before."""

    app: str
    folder: Path
    seen: Seen
    production: str
    project: str

    @property
    def key(self) -> str:
        return f"{self.app} {self.seen.path} {self.seen.length} {self.seen.used:.0f}"


def new_exports(work: Work) -> Iterator[tuple[Finished, set[str]]]:
    """Those that are finished and that the house was not told of; each with what is remembered once it has been."""
    there = [*_named(work)]
    proposed = work.journal.proposed() & {export.key for export in there}
    fresh = [export for export in there if export.key not in proposed and _rests(work, export)]
    held = open_files() if fresh else frozenset[Ident]()  # this looks at every process, so only where it may matter
    for export in islice((export for export in fresh if export.seen.ident not in held), MOST):
        finished = _finished(export)
        proposed = proposed | {export.key}
        yield finished, proposed


def _named(work: Work) -> Iterator[NamedExport]:
    """Files of the stores of exports of which a dialect tells how they are named."""
    for app, store in ((dialect.app, store) for dialect in work.dialects for store in dialect.store):
        if store.kind != "exports" or not store.belongs:
            continue
        belonging = Belonging(store.belongs)
        for folder, seen in _files(work, app, store.setting):
            production, project = belonging.of(seen.path) if _is_nameable(seen) else ("", "")
            if project and max(len(production), len(project)) <= LONGEST_NAME:
                yield NamedExport(app, folder, seen, production, project)


def _files(work: Work, app: str, setting: str) -> Iterator[tuple[Path, Seen]]:
    """Of a store, as many as anybody looks at; none where no preference names it now, or it is being moved."""
    with suppress(Refused, HostError):
        folder = store_at(work, named_folder(work, app, setting), app)
        if folder.is_dir():
            for seen in islice(walk(folder, access_times=False), MOST_LOOKED):
                yield folder, seen


def _is_nameable(seen: Seen) -> bool:
    return seen.path.isprintable() and len(seen.path) <= LONGEST and seen.length > 0 and not seen.stays


def _rests(work: Work, export: NamedExport) -> bool:
    written = dt.datetime.fromtimestamp(export.seen.used, dt.UTC)
    return work.host.now() - written >= RESTS


def _finished(export: NamedExport) -> Finished:
    """Raises HostError where it cannot be read any more."""
    seen = export.seen
    written = dt.datetime.fromtimestamp(seen.used, dt.UTC)
    digest = digest_of(export.folder / seen.path)
    return Finished(export.app, seen.path, seen.length, digest, written, export.project, export.production)
