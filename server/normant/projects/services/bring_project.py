"""A project that somebody brings: a worker reads it, in a process of its own, and nobody looks for its media."""

import tempfile
import zlib
from fnmatch import fnmatch
from pathlib import Path

import msgspec
from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant_core.care.project_file import ProjectAddresses
from normant_core.orders.projects import SeenProject
from normant_timelines.project_aside import read_project_aside

from ..models import BroughtFile, Project

LARGEST = 16 * 1024**2  # bytes: a larger one is read at its seat
MOST = 200  # that were brought
MOST_WAITING = 10  # that are not read yet
LIGHTLY = 1  # how hard zlib packs


@transaction.atomic
def bring_project(name: str, body: bytes, app: str, actor: str) -> Project:
    """Keep it until a worker has read it. Of one name the last that was brought stays.

    Raises Problem for what no dialect reads, and where too many wait or are kept.
    """
    if len(body) > LARGEST:
        raise Problem(413, "Too large", f"a project of more than {LARGEST // 1024**2} MiB must be scanned on its seat")
    _addresses(name, app)
    lock("project")
    if BroughtFile.objects.exclude(project__file=name).count() >= MOST_WAITING:
        raise Problem(409, "Too many projects", f"{MOST_WAITING} projects are waiting to be read: try again later")
    nothing = {"seen": msgspec.to_builtins(SeenProject(name)), "seen_at": timezone.now()}
    about = {"brought_by": actor}
    row, is_new = Project.objects.update_or_create(
        seat=None, app=app, file=name, defaults=about, create_defaults={**about, **nothing}
    )
    if is_new and Project.objects.filter(seat=None).count() > MOST:
        raise Problem(409, "Too many projects", f"at most {MOST} uploaded projects are stored: delete one first")
    packed = {"body": zlib.compress(body, LIGHTLY), "brought_at": timezone.now()}
    BroughtFile.objects.update_or_create(project=row, defaults=packed)
    record(actor, "bring project", name, app=app, bytes=len(body))
    after_commit("projects.read", once=f"project {row.pk}", project=row.pk)
    tell("project", str(row.pk))
    return row


def _addresses(name: str, app: str) -> ProjectAddresses:
    bounds = [bound for dialect in dialects() if dialect.app == app for bound in dialect.project]
    bound = next((bound for bound in bounds if fnmatch(name.lower(), bound.files.lower())), None)
    if bound is None:
        known = ", ".join(bound.files for bound in bounds) or "none"
        raise Problem(422, "No project", f"{name} is no project of {app} that a dialect reads: it names {known}")
    return bound


def read_brought(number: int) -> None:
    """A worker's: read a project that waits, and let go of its bytes. One that was brought anew meanwhile waits on."""
    file = BroughtFile.objects.select_related("project").filter(project=number).first()
    if file is None:
        return
    seen = _seen(file)
    with transaction.atomic():
        lock("project")
        if BroughtFile.objects.filter(pk=file.pk, brought_at=file.brought_at).delete()[0]:
            about = {"seen": msgspec.to_builtins(seen), "seen_at": timezone.now()}
            Project.objects.filter(pk=number).update(**about)
            tell("project", str(number))


def _seen(file: BroughtFile) -> SeenProject:
    project = file.project
    try:
        addresses = _addresses(project.file, project.app)
    except Problem as why:
        return SeenProject(project.file, fault=str(why.detail)[:300])
    with tempfile.TemporaryDirectory(prefix="normant-project-") as folder:
        path = Path(folder, "project")
        path.write_bytes(zlib.decompress(bytes(file.body)))
        return read_project_aside(path, project.file, addresses)
