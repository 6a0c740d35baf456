"""The package of the agent needs what its code imports, and nothing of the house's server."""

import ast
import re
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path
from unittest import TestCase

AGENT = Path(__file__).resolve().parents[2]
OURS = ("normant_agent", "normant_core", "normant_timelines")
SYSTEMS = ("winreg",)  # what one system alone has
DOCUMENT = tomllib.loads((AGENT / "pyproject.toml").read_text("utf-8"))["project"]


def imported() -> set[str]:
    """Packages of others that any module of ours imports, anywhere in it."""
    names = set[str]()
    for part in (AGENT / "normant_agent", *(AGENT.parent / "core" / name for name in OURS[1:])):
        for path in part.rglob("*.py"):
            if "tests" not in path.parts:
                names |= _of(ast.parse(path.read_bytes()))
    return names - set(OURS) - set(SYSTEMS)


def _of(tree: ast.AST) -> set[str]:
    names = set[str]()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            names |= {alias.name.partition(".")[0] for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            names.add(node.module.partition(".")[0])
    return names


def plain(name: str) -> str:
    """As distributions are compared."""
    return re.sub(r"[-_.]+", "-", name).lower()


class Packaging(TestCase):
    def test_it_names_every_package_that_is_imported(self) -> None:
        there = packages_distributions()
        needed = {plain(there[name][0]) for name in imported() if name in there}
        named = {plain(name) for name in (*DOCUMENT["dependencies"], *DOCUMENT["optional-dependencies"]["media"])}
        self.assertEqual(needed - named, set())
        self.assertNotIn("django", named)

    def test_only_the_extra_brings_what_decodes(self) -> None:
        self.assertEqual(DOCUMENT["optional-dependencies"], {"media": ["av"]})
        self.assertNotIn("av", DOCUMENT["dependencies"])
