"""The house's own rules: a name says the thing, one name is one thing, and every room says what it is for."""

import ast
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

REPOSITORY = Path(__file__).resolve().parents[3]
CORE = REPOSITORY / "core" / "normant_core"
PARTS = ("agent", "bench", "core", "e2e", "server", "standin")
# A variable of this name makes its reader look up what it is.
SAYS_NOTHING = {"told", "found", "one", "kept", "mine", "said", "stayed"}


def modules() -> Iterator[tuple[Path, ast.Module]]:
    """Every Python file of the repository but migrations, which are history."""
    for part in PARTS:
        for path in sorted((REPOSITORY / part).rglob("*.py")):
            if "migrations" not in path.parts:
                yield path, ast.parse(path.read_text("utf-8"))


def bound_names(tree: ast.Module) -> Iterator[tuple[str, int]]:
    """Variables, arguments and functions by their line; fields of classes are documents and tables, and stay."""
    fields = {id(line.target) for node in ast.walk(tree) if isinstance(node, ast.ClassDef) for line in _fields(node)}
    for node in ast.walk(tree):
        match node:
            case ast.Name(ctx=ast.Store()) if id(node) not in fields:
                yield node.id, node.lineno
            case ast.arg():
                yield node.arg, node.lineno
            case ast.FunctionDef() | ast.AsyncFunctionDef() if not node.name.startswith("test_"):
                yield node.name, node.lineno


def _fields(node: ast.ClassDef) -> list[ast.AnnAssign]:
    return [line for line in node.body if isinstance(line, ast.AnnAssign)]


class Rooms(TestCase):
    def test_a_name_says_the_thing(self) -> None:
        wrong = [
            f"{path.relative_to(REPOSITORY)}:{line} {name}"
            for path, tree in modules()
            for name, line in bound_names(tree)
            if name.strip("_") in SAYS_NOTHING or name.endswith("_told")
        ]
        self.assertEqual(wrong, [])

    def test_a_public_type_of_core_stands_once(self) -> None:
        places: dict[str, list[str]] = defaultdict(list)
        for path, tree in modules():
            if path.is_relative_to(CORE) and "tests" not in path.parts:
                for node in ast.walk(tree):
                    if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                        places[node.name].append(str(path.relative_to(CORE)))
        self.assertEqual({name: where for name, where in places.items() if len(where) > 1}, {})

    def test_a_room_says_what_it_is_for(self) -> None:
        rooms = [path for path in CORE.iterdir() if (path / "__init__.py").exists() and path.name != "tests"]
        self.assertGreater(len(rooms), 10)
        for room in rooms:
            with self.subTest(room.name):
                self.assertTrue(ast.get_docstring(ast.parse((room / "__init__.py").read_text("utf-8"))))
