"""JSON preference files; addresses are JSON Pointers (RFC 6901)."""

import json
from collections.abc import Iterator

import tree_sitter
import tree_sitter_json

from ..errors import FileError
from .span import LIMIT_DEPTH, Encoded, Entry, missing, understood

LANGUAGE = tree_sitter.Language(tree_sitter_json.language())
_SCALARS = {"string": "text", "number": "number", "true": "bool", "false": "bool", "null": "null"}


class JsonFile:
    """A JSON file that may be read and changed value by value."""

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file = Encoded.read(raw)
        try:
            json.loads(self._file.text)
        except json.JSONDecodeError as fault:
            raise FileError(fault.msg, line=fault.lineno, column=fault.colno) from fault
        except (RecursionError, ValueError) as fault:
            raise FileError(f"the file cannot be read as JSON: {fault}") from fault
        root = understood(tree_sitter.Parser(LANGUAGE).parse(self._file.text).root_node)
        self._entries: dict[str, Entry] = {}
        for entry in _walk(root.named_children[0], "", 0):
            # Of a key that stands twice the last counts, as every common reader has it.
            self._entries[entry.at] = entry

    @staticmethod
    def place_of_error(raw: bytes) -> tuple[int, int]:
        """Line and column where JSON stops being JSON."""
        try:
            json.loads(raw)
        except json.JSONDecodeError as fault:
            return fault.lineno, fault.colno
        except (UnicodeDecodeError, ValueError, RecursionError):
            return 1, 1
        return 1, 1

    def entries(self) -> list[Entry]:
        """Every addressable value."""
        return list(self._entries.values())

    def get(self, at: str) -> Entry:
        """The value at `at`. Raises FileError where there is none."""
        if at not in self._entries:
            raise missing(at, list(self._entries))
        return self._entries[at]

    def replace(self, at: str, raw: str) -> bytes:
        """The file with the value at `at` replaced; its kind stays (text stays text)."""
        entry = self.get(at)
        written = json.dumps(raw, ensure_ascii=False) if entry.kind == "text" else raw
        try:
            json.loads(written)
        except json.JSONDecodeError as fault:
            raise FileError(f"{at} holds a {entry.kind}; {raw!r} is none") from fault
        return self._file.splice(entry.start, entry.end, written)


def _walk(node: tree_sitter.Node, at: str, depth: int) -> Iterator[Entry]:
    if depth > LIMIT_DEPTH:
        raise FileError(f"the file is nested deeper than {LIMIT_DEPTH}", line=node.start_point.row + 1)
    if node.type in _SCALARS:
        text = (node.text or b"").decode()
        raw = json.loads(text) if node.type == "string" else text
        line = node.start_point.row + 1
        yield Entry(at, raw, _SCALARS[node.type], node.start_byte, node.end_byte, line)
    elif node.type == "object":
        for pair in node.named_children:
            key, value = pair.child_by_field_name("key"), pair.child_by_field_name("value")
            if key is not None and value is not None:
                name = json.loads((key.text or b"").decode())
                yield from _walk(value, f"{at}/{name.replace('~', '~0').replace('/', '~1')}", depth + 1)
    else:
        items = [child for child in node.named_children if child.type != "comment"]
        for index, child in enumerate(items):
            yield from _walk(child, f"{at}/{index}", depth + 1)
