"""Where in a TOML text a value stands, so that a fault can be told by line and column."""

import re
import tomllib
from collections.abc import Sequence
from typing import Any

import tree_sitter
import tree_sitter_toml

from .errors import DocumentError, Fault

Path = tuple[str | int, ...]
_LANGUAGE = tree_sitter.Language(tree_sitter_toml.language())


LIMIT_BYTES = 256 * 1024
# Far beyond what people write, and small enough that the parsers, which take more than their share for deep keys and
# for many points, are done with the worst of it in a second or two.
LIMITS = {
    "lines": 20_000,
    "keys": 10_000,
    "commas": 20_000,
    "tables": 3_000,
    "brackets in one another": 16,
    "points in one key": 6,
    "points": 4_000,
}
LIMIT_FAULTS = 50  # that are told of one document

# What decides the size of a document: texts and comments are stepped over whole (each also where it does not end, so
# that every character is looked at once), and of the rest only signs count.
_SIGNS = re.compile(
    r'"""(?:[^\\]|\\.)*?(?:"""|\Z)|'
    r"'''.*?(?:'''|\Z)"
    r'|"(?:[^"\\\n]|\\.)*"?|'
    r"'[^'\n]*'?|#[^\n]*|[\[\]{}.=,\n]",
    re.DOTALL,
)


_COUNTED = {"=": "keys", ",": "commas", "\n": "lines", ".": "points"}


def _count(counts: dict[str, int], sign: str, before: str) -> None:
    """Counts one sign. A bracket that begins its line begins a table, as the least that it may be."""
    if sign in _COUNTED:
        counts[_COUNTED[sign]] += 1
    elif sign in "[{":
        counts["tables"] += before == "\n"
        counts["brackets in one another"] += 1
    else:
        counts["brackets in one another"] -= sign in "]}"
        return
    counts["points in one key"] = counts["points in one key"] + 1 if sign == "." else 0


def check_bounds(text: str, source: str) -> None:
    """Raises DocumentError where a TOML text is larger than any that people write; costs one pass over it."""
    size = len(text.encode())
    if size > LIMIT_BYTES:
        raise DocumentError(source, [Fault(f"the text has {size:,} bytes", expected=f"at most {LIMIT_BYTES:,}")])
    counts = dict.fromkeys(LIMITS, 0)
    before = "\n"
    for match in _SIGNS.finditer(text):
        _count(counts, match.group(), before)
        before = match.group()
        if beyond := next((what for what, most in LIMITS.items() if counts[what] > most), None):
            most, line = LIMITS[beyond], text.count("\n", 0, match.start()) + 1
            fault = Fault(f"there are more than {most:,} {beyond}", line=line, column=1, expected=f"at most {most:,}")
            raise DocumentError(source, [fault])


def load_toml(text: str, source: str, *, bounded: bool = True) -> dict[str, Any]:
    """The document as plain values. Raises DocumentError with the place of a fault in the syntax."""
    if bounded:
        check_bounds(text, source)
    try:
        return tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError, ValueError) as fault:
        message = str(fault)
        head, _, place = message.partition(" (at ")
        numbers = [int(w) for w in place.replace(",", " ").replace(")", " ").split() if w.isdigit()]
        line, column = (numbers[0], numbers[1]) if len(numbers) > 1 else (text.count("\n") + 1, 1)
        raise DocumentError(source, [Fault(head, line=line, column=column, expected="TOML")]) from fault


class Places:
    """Line and column of every key path of a TOML text; a path that is not there gives its nearest parent."""

    def __init__(self, text: str) -> None:
        self._places: dict[Path, tuple[int, int]] = {(): (1, 1)}
        tree = tree_sitter.Parser(_LANGUAGE).parse(text.encode())
        counts: dict[Path, int] = {}
        for node in tree.root_node.named_children:
            if node.type == "pair":
                self._pair((), node)
            elif node.type in ("table", "table_array_element"):
                self._table(node, counts)

    def of(self, path: Sequence[str | int]) -> tuple[int, int]:
        """(line, column), both from 1."""
        known = tuple(path)
        while known not in self._places:
            known = known[:-1]
        return self._places[known]

    def _table(self, node: tree_sitter.Node, counts: dict[Path, int]) -> None:
        names = _key(node.named_children[0])
        prefix: Path = ()
        for name in names[:-1]:
            prefix = (*prefix, name)
            if prefix in counts:
                prefix = (*prefix, counts[prefix])
        prefix = (*prefix, names[-1])
        if node.type == "table_array_element":
            counts[prefix] = counts.get(prefix, -1) + 1
            prefix = (*prefix, counts[prefix])
        self._note(prefix, node)
        for child in node.named_children[1:]:
            if child.type == "pair":
                self._pair(prefix, child)

    def _pair(self, prefix: Path, node: tree_sitter.Node) -> None:
        key, value = node.named_children[:2]
        path = (*prefix, *_key(key))
        self._value(path, value)

    def _value(self, path: Path, node: tree_sitter.Node) -> None:
        self._note(path, node)
        if node.type == "inline_table":
            for child in node.named_children:
                if child.type == "pair":
                    self._pair(path, child)
        elif node.type == "array":
            items = [child for child in node.named_children if child.type != "comment"]
            for index, child in enumerate(items):
                self._value((*path, index), child)

    def _note(self, path: Path, node: tree_sitter.Node) -> None:
        self._places[path] = (node.start_point.row + 1, node.start_point.column + 1)


def _key(node: tree_sitter.Node) -> list[str]:
    if node.type == "dotted_key":
        return [name for child in node.named_children for name in _key(child)]
    text = (node.text or b"").decode()
    return [text[1:-1] if node.type == "quoted_key" else text]


def written(path: Sequence[str | int]) -> str:
    """`("layer", 0, "rule", 2)` as `layer[0].rule[2]`."""
    text = "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in path)
    return text.removeprefix(".")
