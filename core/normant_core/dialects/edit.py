"""The text of a dialect, with a binding that was learnt: comments, order and spelling of all else stay as they are."""

import fnmatch
import glob
import re
from typing import Any

import msgspec
import tomlkit

from ..base.toml_text import append, editable, table_of, tables
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
