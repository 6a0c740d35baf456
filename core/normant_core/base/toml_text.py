"""A TOML text that is edited: comments, order and spelling of all that is not touched stay as they are."""

from collections.abc import Mapping
from typing import Any

import tomlkit
from tomlkit.exceptions import TOMLKitError
from tomlkit.items import AoT, InlineTable, Table

from .errors import DocumentError, Fault
from .toml_places import check_bounds


def editable(text: str, source: str) -> tomlkit.TOMLDocument:
    """The document of a text. Raises DocumentError, with the place where that is known, where it is none."""
    check_bounds(text, source)
    try:
        return tomlkit.parse(text)
    except (TOMLKitError, RecursionError, ValueError) as fault:
        line, column = getattr(fault, "line", None), getattr(fault, "col", None)
        broken = Fault(str(fault), line=line, column=column, expected="TOML: mend the text first")
        raise DocumentError(source, [broken]) from fault


def tables(parent: Any, name: str) -> AoT:
    """The tables `[[name]]` of a document or table; where there are none, they begin at its end.

    A list of them that was written in one line is written out. Raises DocumentError where something else stands there.
    """
    listed = parent.get(name)
    if isinstance(listed, AoT):
        return listed
    if listed is not None and not (isinstance(listed, list) and all(isinstance(item, Mapping) for item in listed)):
        fault = Fault(f"{name} is something else", path=name, expected=f"tables, each begun by [[{name}]]")
        raise DocumentError("the text", [fault])
    if listed is not None:
        parent.remove(name)
    parent.append(name, tomlkit.aot())
    begun = parent[name]
    assert isinstance(begun, AoT)
    for item in listed or ():
        append(begun, table_of(item))
    return begun


def table_of(fields: Mapping[str, Any]) -> Table:
    """A table of these fields, in their order; what is itself a mapping stands in one line."""
    table = tomlkit.table()
    for name, value in fields.items():
        table.add(name, _in_one_line(value) if isinstance(value, Mapping) else value)
    return table


def _in_one_line(fields: Mapping[str, Any]) -> InlineTable:
    inline = tomlkit.inline_table()
    inline.update(fields)
    return inline


def append(listed: AoT, table: Table) -> None:
    """One more table at the end, with an empty line before and behind it."""
    if len(listed) and not tomlkit.dumps(listed[-1]).endswith("\n\n"):
        listed[-1].add(tomlkit.nl())
    table.add(tomlkit.nl())
    listed.append(table)
