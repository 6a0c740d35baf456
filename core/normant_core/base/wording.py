"""How sentences count, list and name: in one place, so that they all do it alike."""

from collections.abc import Collection, Iterable, Sequence

_NUMBERS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"]


def number(count: int) -> str:
    """Small numbers in words, as a sentence has them: `no`, `three`, `1,200`."""
    return _NUMBERS[count] if count < len(_NUMBERS) else f"{count:,}"


def counted(count: int, noun: str, several: str = "") -> str:
    """`one seat`, `three seats`; `several` where that is not the noun with an s."""
    return f"{number(count)} {_agreeing(count, noun, several)}"


def counted_in_figures(count: int, noun: str, several: str = "") -> str:
    """`1 seat`, `3 seats`, `12,000 findings`."""
    return f"{count:,} {_agreeing(count, noun, several)}"


def opening(words: str) -> str:
    """With a capital at its beginning, and the rest as it is."""
    return f"{words[:1].upper()}{words[1:]}"


def listed(names: Iterable[str]) -> str:
    """`a`, `a and b`, `a, b and c`; nothing for none."""
    *first, last = list(names) or [""]
    return f"{', '.join(first)} and {last}" if first else last


def on_seats(seats: Sequence[str] | Collection[str], count: int | None = None) -> str:
    """The name of a single seat, else how many there are (`count`, where not all of them are named)."""
    many = len(seats) if count is None else count
    return next(iter(seats)) if many == 1 else counted(many, "seat")


def app_title(app: str) -> str:
    """An application's name as people write it: `corrow` is Corrow."""
    return app.capitalize()


def of_app(app: str | None) -> str:
    """` of Corrow`, behind the title of a setting; nothing for a reading of the machine's own."""
    return f" of {app_title(app)}" if app else ""


def _agreeing(count: int, noun: str, several: str) -> str:
    return noun if count == 1 else several or f"{noun}s"


def spoken_path(path: str) -> str:
    """A path as text; bytes of it that are no UTF-8 as \\xNN."""
    return path.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")
