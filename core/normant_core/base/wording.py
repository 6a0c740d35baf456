"""How sentences count, list and name: in one place, so that they all do it alike."""

from collections.abc import Collection, Iterable, Sequence


def counted(count: int, noun: str, several: str = "") -> str:
    """Return a number with its noun: `1 seat`, `3 seats`, `12,000 findings`. `several` is an irregular plural."""
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


def with_app(title: str, app: str | None) -> str:
    """Return a setting's title with its application: `Corrow preview pool`; the title alone for one of the machine."""
    if not app:
        return title
    is_acronym = title[1:2].isupper()
    return f"{app_title(app)} {title if is_acronym else title[:1].lower() + title[1:]}"


def _agreeing(count: int, noun: str, several: str) -> str:
    return noun if count == 1 else several or f"{noun}s"


def spoken_path(path: str) -> str:
    """A path as text; bytes of it that are no UTF-8 as \\xNN."""
    return path.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")
