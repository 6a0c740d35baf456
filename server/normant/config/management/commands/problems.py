"""`manage.py problems`: the list of everything that the API refuses with, as docs/problems.md keeps it."""

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from normant.common.problems import type_of

SERVER = Path(__file__).resolve().parents[3]
HEAD = """# Problems

Every refusal is a document of RFC 9457. Its `type` is stable and says what was refused; `detail` says why, and what to
do. This list is made from the code by `script/schemas`.

| type | status | title |
|---|---|---|
"""


class Command(BaseCommand):
    help = "Print the list of problems."

    def handle(self, **options: Any) -> None:
        """In order of their types."""
        self.stdout.write(listed())


def listed() -> str:
    """The text of docs/problems.md."""
    statuses: dict[str, set[int]] = {}
    for status, title in _raised():
        statuses.setdefault(title, set()).add(status)
    rows = sorted((type_of(title), ", ".join(map(str, sorted(codes))), title) for title, codes in statuses.items())
    return HEAD + "\n".join(f"| `{kind}` | {status} | {title} |" for kind, status, title in rows)


def _raised() -> Iterator[tuple[int, str]]:
    """Each status and title that stands in the code."""
    for path in sorted(SERVER.rglob("*.py")):
        if "tests" in path.parts:
            continue
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                yield from _of_call(node.func.id, [a.value for a in node.args if isinstance(a, ast.Constant)])


def _of_call(function: str, constants: list[Any]) -> Iterator[tuple[int, str]]:
    match function, constants:
        case "Problem", [int(status), str(title), *_]:
            yield status, title
        case "row_or_404", [str(what), *_]:
            yield 404, f"No such {what}"
        case "refused", [str(title), *_]:
            yield 422, title
