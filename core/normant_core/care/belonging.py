"""To which production and project a file belongs, by a pattern over its path.

Patterns come from dialects and from people, so they are matched in time that grows with the path alone, whatever they
say: by automata, after R. Cox, "Regular expression matching can be simple and fast" (2007). Such patterns have no
look-around and no back-references.
"""

from typing import Any

import re2

from ..base.errors import NormantError

GROUPS = ("production", "project")
LONGEST = 500  # characters of a pattern
_MEMORY = 1 << 20  # bytes that one may take


class PatternError(NormantError):
    """A pattern that is none, or that names other groups than these."""


class Belonging:
    """A pattern that names groups `production` and `project`, one of them or both; an empty one tells neither."""

    def __init__(self, pattern: str) -> None:
        """Raises PatternError."""
        self.pattern = pattern
        self._made = _compiled(pattern) if pattern else None
        self._has = [name in (self._made.groupindex if self._made else ()) for name in GROUPS]

    def of(self, path: str) -> tuple[str, str]:
        """Production and project of a path with forward slashes; empty where it does not tell."""
        match = self._made.search(path) if self._made else None
        if match is None:
            return "", ""
        production, project = (match[name] or "" if has else "" for name, has in zip(GROUPS, self._has, strict=True))
        return production, project


class Only:
    """A pattern that an item's path matches where the item is meant; an empty one means every item."""

    def __init__(self, pattern: str) -> None:
        """Raises PatternError."""
        self._made = _automaton(pattern) if pattern else None

    def means(self, path: str) -> bool:
        """Whether the item at a path, with forward slashes, is meant."""
        return self._made is None or self._made.search(path) is not None


def _compiled(pattern: str) -> Any:
    made = _automaton(pattern)
    if other := sorted({*made.groupindex} - {*GROUPS}):
        raise PatternError(f"the pattern names a group {other[0]!r}: expected {' and '.join(GROUPS)}")
    if not made.groupindex:
        raise PatternError("the pattern names no group: expected (?P<production>...), (?P<project>...) or both")
    return made


def _automaton(pattern: str) -> Any:
    if len(pattern) > LONGEST:
        raise PatternError(f"the pattern has {len(pattern):,} characters: expected at most {LONGEST}")
    options = re2.Options()
    options.max_mem, options.log_errors = _MEMORY, False
    try:
        return re2.compile(pattern, options)
    except UnicodeEncodeError as why:
        raise PatternError(f"the pattern {pattern[:80]!a} is no text") from why
    except re2.error as why:
        words = why.args[0].decode("utf-8", "replace") if isinstance(why.args[0], bytes) else str(why.args[0])
        raise PatternError(f"the pattern {pattern[:80]!r} cannot be read: {words}") from why
