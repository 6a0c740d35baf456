"""The text of a dialect, with a binding that was learnt: comments, order and spelling of all else stay as they are."""

import fnmatch
import glob
import re
from typing import Any

import msgspec
import tomlkit

from ..base.toml_text import append, editable, table_of, tables
from ..care.project_file import ProjectAddresses
from .dialect import VARIABLE, Binding
from .lessons import ToggledValue


def written(binding: Binding) -> str:
    """The binding as a dialect's text has it."""
    return "[[file.binding]]\n" + tomlkit.dumps(table_of(_fields(binding)))


def add_binding(text: str, changed: ToggledValue, binding: Binding, *, app: str) -> str:
    """A dialect's text with one more binding, at the end of its file's. Raises DocumentError where it is no TOML.

    A file that the dialect does not name yet gets a part of its own; without a text a dialect begins.
    """
    document = editable(text, "dialect") if text.strip() else _begun(app)
    files = tables(document, "file")
    place = next((place for place, part in enumerate(files) if _names(part.get("path"), changed.file)), None)
    if place is None:
        name = re.sub(r"\W+", "-", changed.file.rpartition("/")[2].rpartition(".")[0]) or "preferences"
        append(files, table_of({"name": name, "path": changed.file, "format": changed.format}))
        place = len(files) - 1
    append(tables(files[place], "binding"), table_of(_fields(binding)))
    return tomlkit.dumps(document).rstrip() + "\n"


def keep_store(text: str, kind: str, pattern: str, *, app: str) -> str:
    """A dialect's text in which items of that kind of store belong by this pattern. Raises DocumentError."""
    document = editable(text, "dialect") if text.strip() else _begun(app)
    stores = tables(document, "store")
    of_kind = next((part for part in stores if part.get("kind") == kind), None)
    if of_kind is None:
        append(stores, table_of({"kind": kind, "setting": f"store.{kind}.path", "belongs": pattern}))
    else:
        of_kind["belongs"] = pattern
    return tomlkit.dumps(document).rstrip() + "\n"


def keep_project(text: str, addresses: ProjectAddresses, *, app: str) -> str:
    """A dialect's text with where projects list their media; another one of files so named goes. Raises DocumentError.

    What was said of files so named beside these addresses, such as their rates, stays.
    """
    document = editable(text, "dialect") if text.strip() else _begun(app)
    projects, fields = tables(document, "project"), msgspec.to_builtins(addresses)
    same = next((part for part in projects if part.get("files") == addresses.files), None)
    if same is None:
        append(projects, table_of(fields))
    else:
        same.update(fields)
    return tomlkit.dumps(document).rstrip() + "\n"


def _begun(app: str) -> tomlkit.TOMLDocument:
    document = tomlkit.document()
    for name, value in {"format": "normant-dialect/1", "app": app, "versions": ">=0"}.items():
        document.add(name, value)
    document.add(tomlkit.nl())
    return document


def _fields(binding: Binding) -> dict[str, Any]:
    """What is said of a binding; what is as usual goes without saying."""
    usual = Binding(binding.setting, binding.at)
    fields = msgspec.structs.asdict(binding)
    return {k: v for k, v in fields.items() if k in ("setting", "at") or v != getattr(usual, k)}


def _names(path: Any, file: str) -> bool:
    """Whether a dialect's path, which may speak of versions in braces, is that file's.

    Part by part, and by patterns that never go back: of many braces in a row an ordinary one would try every share.
    """
    if not isinstance(path, str):
        return False
    patterns, parts = VARIABLE.sub("?*", glob.escape(path)).split("/"), file.split("/")
    return len(patterns) == len(parts) and all(map(fnmatch.fnmatchcase, parts, patterns))
