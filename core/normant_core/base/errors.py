"""What can be wrong with what somebody gave us, told so that they can mend it."""

from collections.abc import Sequence
from dataclasses import dataclass

LONGEST = 600  # characters of a part of a fault


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing wrong in one place of a document.

    `path` is written as `layer[0].rule[2].setting`; `line` and `column` count from 1 and are None where
    the document has no lines (a value that came over HTTP).
    """

    message: str
    path: str = ""
    line: int | None = None
    column: int | None = None
    expected: str = ""

    def __post_init__(self) -> None:
        """Nobody reads more, and a document must not be told back whole."""
        for name in ("message", "path", "expected"):
            text = getattr(self, name)
            if len(text) > LONGEST:
                object.__setattr__(self, name, text[: LONGEST - 1] + "…")

    def sentence(self, source: str = "") -> str:
        """`file:line:column: path: message (expected ...)`, leaving out what is not known."""
        place = ":".join(str(part) for part in (source, self.line, self.column) if part not in ("", None))
        message = f"{self.message} (expected {self.expected})" if self.expected else self.message
        return ": ".join(part for part in (place, self.path, message) if part)


class NormantError(Exception):
    """Root of every error that core raises on purpose."""


class QuantityError(NormantError):
    """A text that is no quantity of the wanted kind; `position` is the offset of the first wrong character."""

    def __init__(self, text: str, position: int, expected: str) -> None:
        super().__init__(f"{text[:80]!r}: at character {position + 1}: expected {expected}")
        self.text, self.position, self.expected = text, position, expected


class DocumentError(NormantError):
    """A document that is refused whole, with every fault that could be told at once."""

    def __init__(self, source: str, faults: Sequence[Fault]) -> None:
        super().__init__("\n".join(fault.sentence(source) for fault in faults))
        self.source, self.faults = source, tuple(faults)


class FileError(NormantError):
    """A preference file, or a value in it, that cannot be read or written as asked."""

    def __init__(self, message: str, *, line: int | None = None, column: int | None = None) -> None:
        place = f"line {line}, column {column}: " if line and column else f"line {line}: " if line else ""
        super().__init__(place + message)
        self.message, self.line, self.column = message, line, column
