"""Dialects of stores and projects: tried on a seat's survey, on paths and files, and taught by example."""

import base64
import io
from collections.abc import Iterable, Iterator, Mapping
from fnmatch import fnmatch
from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.problems import Problem
from normant.dialects.models import Dialect as DialectRow
from normant_core.base.errors import DocumentError, FileError
from normant_core.base.quantities import Dimension, show
from normant_core.base.wording import counted, listed
from normant_core.care.belonging import Belonging
from normant_core.care.clearing import Kind
from normant_core.care.project_file import ProjectAddresses, read_project
from normant_core.dialects.dialect import BoundStore, Dialect
from normant_core.dialects.edit import keep_project, keep_store
from normant_core.dialects.store_lessons import PathSample, learn_belonging, learn_project
from normant_core.seat.survey import Store, Survey

router = Router(tags=["dialects"])
LIMIT_PROJECT = 4 * 1024 * 1024  # bytes of a project that is shown
AppName = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9._:-]{0,63}$")]
Name = Annotated[str, Field(max_length=120)]
Text = Annotated[str, Field(max_length=400_000)]


class PathIn(Schema):
    """A file's path under its store, and to what it belongs; what nobody knows is empty."""

    path: str = Field(min_length=1, max_length=1000)
    production: Name = ""
    project: Name = ""


class LearnStoreIn(Schema):
    """Files of one kind of store, each with its production and project; `text` is the dialect to which the pattern is
    added."""

    app: AppName
    kind: Kind
    samples: list[PathIn] = Field(min_length=1, max_length=20)
    text: Text = ""


class LearnProjectIn(Schema):
    """A project file (base64) with a timeline that uses some of its media; `text` is the dialect to which the result
    is added."""

    app: AppName
    name: str = Field(min_length=1, max_length=400)
    file: str = Field(max_length=LIMIT_PROJECT * 4 // 3 + 4)
    text: Text = ""


class LearntPartOut(Schema):
    """The result of teaching, its certainty with the reason, and the new text of the dialect."""

    learnt: str
    sure: bool
    why: str
    text: str


@router.post(
    "/dialects/learn-store", response=LearntPartOut, operation_id="learn_store", auth=Needs(Permission.PUBLISH)
)
def learn_store(request: HttpRequest, given: LearnStoreIn) -> Any:
    """Derive the pattern that finds the production and project of a store's files, and return the dialect's text with
    it."""
    try:
        learnt = learn_belonging([PathSample(s.path, s.production.strip(), s.project.strip()) for s in given.samples])
    except FileError as why:
        raise Problem(422, "Not explained", str(why)) from why
    text = keep_store(_text(given.app, given.text), given.kind, learnt.pattern, app=given.app)
    return plain({"learnt": learnt.pattern, "sure": learnt.sure, "why": learnt.why, "text": text})


@router.post(
    "/dialects/learn-project", response=LearntPartOut, operation_id="learn_project", auth=Needs(Permission.PUBLISH)
)
def learn_project_file(request: HttpRequest, given: LearnProjectIn) -> Any:
    """Where projects of that manner list their media and what uses it, and the dialect's text with it."""
    try:
        content = base64.b64decode(given.file, validate=True)
    except ValueError as fault:
        raise Problem(422, "Not base64", f"a file's bytes come as base64: {fault}") from fault
    try:
        learnt = learn_project(given.name.replace("\\", "/").rpartition("/")[2], content)
    except FileError as why:
        raise Problem(422, "Not explained", str(why)) from why
    at = learnt.addresses
    text = keep_project(_text(given.app, given.text), at, app=given.app)
    where = f"{at.item}, its path at {at.path}, named by its {at.id} at {listed(at.uses)}"
    return plain({"learnt": where, "sure": learnt.sure, "why": learnt.why, "text": text})


def _text(app: str, text: str) -> str:
    return text or DialectRow.objects.filter(app=app).values_list("text", flat=True).first() or ""


def stores_tried(dialect: Dialect, survey: Survey) -> Iterator[dict[str, Any]]:
    """Which folder of a seat each store is, and what was counted of it last."""
    values = survey.values()
    sizes = {store.path: store for store in survey.stores if store.app == dialect.app}
    for bound in dialect.store:
        folder = values.get((bound.setting, dialect.app))
        fault = "" if folder else f"{survey.seat} has no folder for it"
        yield _row(bound, _counted(str(folder), sizes.get(str(folder))) if folder else None, fault)


def _counted(folder: str, store: Store | None) -> str:
    if store is None or store.size is None:
        return f"{folder}: not counted yet"
    items = counted(store.items or 0, "item")
    most = f", mostly {listed(share.production for share in store.productions[:3])}" if store.productions else ""
    return f"{folder}: {show(store.size, Dimension.BYTES, unit='GB')} in {items}{most}"


def paths_tried(dialect: Dialect, paths: Iterable[str]) -> Iterator[dict[str, Any]]:
    """To what each path belongs, by every store that tells it."""
    those = list(paths)
    for bound in (store for store in dialect.store if store.belongs):
        belongs = Belonging(bound.belongs)
        for path in those:
            production, project = belongs.of(path)
            named = [f"{group} {name}" for group, name in (("production", production), ("project", project)) if name]
            fault = "" if named else f"{path}: no production or project in its path"
            yield _row(bound, f"{path}: {listed(named)}" if named else None, fault)


def projects_tried(dialect: Dialect, files: Mapping[str, bytes]) -> Iterator[dict[str, Any]]:
    """What is read of those of the files that are projects."""
    for path, content in files.items():
        for at in dialect.project:
            if fnmatch(path.rpartition("/")[2], at.files):
                yield {"setting": "project", "file": path, "at": at.item, "native": None, **_read(path, content, at)}


def _read(path: str, content: bytes, at: ProjectAddresses) -> dict[str, Any]:
    try:
        project = read_project(io.BytesIO(content), path, at)
    except DocumentError as why:
        return {"value": None, "fault": str(why)[:600]}
    used = sum(item.id in project.uses for item in project.items)
    items = counted(len(project.items), "media item")
    return {"value": f"{path}: {items}, {used:,} of them used", "fault": ""}


def _row(store: BoundStore, value: str | None, fault: str) -> dict[str, Any]:
    return {"setting": store.setting, "file": "", "at": "[[store]]", "native": store.belongs or None} | {
        "value": value,
        "fault": fault,
    }
