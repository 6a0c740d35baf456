"""Where in a JSON text a value stands, so that a fault can be reported by line and column."""

from collections.abc import Sequence

import tree_sitter

from .json_file import LANGUAGE

Path = Sequence[str | int]


class JsonPlaces:
    """Line and column, from 1, of the value at a path of a JSON text, or of its nearest parent."""

    def __init__(self, raw: bytes) -> None:
        self._tree = tree_sitter.Parser(LANGUAGE).parse(raw)
        self._lists: dict[int, list[tree_sitter.Node]] = {}

    def of(self, path: Path) -> tuple[int, int]:
        """(line, column)."""
        node: tree_sitter.Node = next(iter(self._tree.root_node.named_children), self._tree.root_node)
        for part in path:
            child = self._child(node, part)
            if child is None:
                break
            node = child
        return node.start_point.row + 1, node.start_point.column + 1

    def _child(self, node: tree_sitter.Node, part: str | int) -> tree_sitter.Node | None:
        items = self._items(node)
        if isinstance(part, int):
            return items[part] if node.type == "array" and part < len(items) else None
        for pair in items:
            key = pair.child_by_field_name("key")
            if key is not None and key.text == f'"{part}"'.encode():
                return pair.child_by_field_name("value")
        return None

    def _items(self, node: tree_sitter.Node) -> list[tree_sitter.Node]:
        """What a node holds without comments, taken from it once: a list may be asked for each of its items."""
        if node.id not in self._lists:
            self._lists[node.id] = [child for child in node.named_children if child.type != "comment"]
        return self._lists[node.id]
