"""Refuses tests that wait for a while instead of an event, and tests that assert how long something took.

Waiting is for `normant_core.tests.waiting.until`, which polls for what is to hold; a browser waits by itself. A line
that has to wait all the same says why: `# waits: the reason`.
"""

import ast
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
WAITING = ROOT / "core" / "normant_core" / "tests" / "waiting.py"
SLEEPS = frozenset(("sleep", "wait_for_timeout"))
CLOCKS = frozenset(("monotonic", "perf_counter", "process_time"))
EXCUSE = "# waits: "


def tests() -> list[Path]:
    """Every file of tests, and of what only tests use."""
    found = {*ROOT.glob("*/**/tests/**/*.py"), *ROOT.glob("e2e/**/*.py")}
    return sorted(path for path in found if not {".venv", "node_modules"} & {*path.parts} and path != WAITING)


def faults(path: Path) -> list[str]:
    """`file:line: what is wrong`, for each place of a file."""
    text = path.read_text("utf-8")
    lines, found = text.splitlines(), list[str]()
    for node in ast.walk(ast.parse(text)):
        if not isinstance(node, ast.Call) or EXCUSE in lines[node.lineno - 1]:
            continue
        name, place = _name(node), f"{path.relative_to(ROOT)}:{node.lineno}"
        if name in SLEEPS:
            found.append(
                f"{path.relative_to(ROOT)}:{node.lineno}: {name} waits for a while: wait until something holds"
            )
        if name.startswith("assert") and any(_name(part) in CLOCKS for part in ast.walk(node)):
            found.append(f"{place}: how long it took is asserted: machines differ")
    return found


def _name(node: ast.AST) -> str:
    if not isinstance(node, ast.Call):
        return ""
    return node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")


if __name__ == "__main__":
    if all_faults := [fault for path in tests() for fault in faults(path)]:
        sys.exit("\n".join(all_faults))
