"""A project that somebody brings: it is read here, and nobody looks for its media."""

import io
from collections.abc import Mapping
from fnmatch import fnmatch
from itertools import count

import msgspec
from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant_core.base.errors import DocumentError
from normant_core.care.project_file import ProjectAddresses, read_project
from normant_core.care.projects import MediaFile, check_project
from normant_core.orders.projects import SeenProject, seen_project

from ..models import Project

LARGEST = 16 * 1024**2  # bytes: a larger one is read at its seat
MOST = 200  # that were brought


def bring_project(name: str, body: bytes, app: str, actor: str) -> Project:
    """Of one name the last that was brought stays. Raises Problem for what no dialect reads, or is damaged."""
    if len(body) > LARGEST:
        raise Problem(413, "Too large", f"a project of more than {LARGEST // 1024**2} MiB is read at its seat")
    seen = _seen(name, body, _manner(name, app))
    return _stored(name, app, seen, actor)


def _manner(name: str, app: str) -> ProjectAddresses:
    manners = [bound for dialect in dialects() if dialect.app == app for bound in dialect.project]
    manner = next((bound for bound in manners if fnmatch(name.lower(), bound.files.lower())), None)
    if manner is None:
        known = ", ".join(bound.files for bound in manners) or "none"
        raise Problem(422, "No project", f"{name} is no project of {app} that a dialect reads: it names {known}")
    return manner


def _seen(name: str, body: bytes, manner: ProjectAddresses) -> SeenProject:
    try:
        project = read_project(io.BytesIO(body), name, manner)
    except DocumentError as why:
        raise Problem(422, "No project", str(why)) from why
    numbers = count()
    files: Mapping[str, MediaFile] = {item.path: MediaFile(0, (0, next(numbers))) for item in project.items}
    return seen_project(name, project.version, check_project(project, files.get))


@transaction.atomic
def _stored(name: str, app: str, seen: SeenProject, actor: str) -> Project:
    lock("project")
    about = {"seen": msgspec.to_builtins(seen), "seen_at": timezone.now(), "brought_by": actor}
    row, is_new = Project.objects.update_or_create(seat=None, app=app, file=name, defaults=about)
    if is_new and Project.objects.filter(seat=None).count() > MOST:
        raise Problem(409, "Too many projects", f"at most {MOST} that were brought are kept: let go of one first")
    record(actor, "bring project", name, app=app, items=seen.items)
    tell("project", str(row.pk))
    return row
