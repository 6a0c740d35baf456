"""The impact of another edition: which findings it would open, close and change, before anybody publishes it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np
import numpy.typing as npt

from ..base.wording import counted, listed
from ..catalogue.settings import catalogue
from ..judging.inputs import OfFacts
from ..seat.survey import Key
from ..standard.rule import Rule
from .columns import House
from .marks import NO_NORM, OFF_NORM, UNREAD, has_status, places_of
from .verdicts import Case, Standing

HOW = ("opens", "closes", "changes", "unread")
NAMED = 200  # seats of a part that are told by name
Rows = npt.NDArray[np.int64]


class SettingImpact(msgspec.Struct, frozen=True):
    """What happens to one setting of one application on some seats.

    It opens, closes, changes (another norm or severity), or is unread (it cannot be judged any more).
    """

    setting: str
    app: str | None
    title: str
    how: str
    count: int
    seats: tuple[str, ...]


class GroupImpact(msgspec.Struct, frozen=True):
    """What happens in one room, or to one hardware class: counts of findings."""

    name: str
    opens: int
    closes: int
    changes: int
    unread: int


class Impact(msgspec.Struct, frozen=True):
    """What publishing would do to the house as it is; `kept` counts the findings that stay as they are."""

    parts: tuple[SettingImpact, ...]
    rooms: tuple[GroupImpact, ...]
    classes: tuple[GroupImpact, ...]
    kept: int
    seats: int
    sentence: str


@dataclass(frozen=True, slots=True)
class _Moved:
    key: Key
    how: str
    rows: Rows


def impact(before: Standing | None, after: Standing) -> Impact:
    """Compare two editions over one house. `before` is None where nothing was published yet."""
    moved, kept_count = _compared(before, after)
    rows = {how: _all([m.rows for m in moved if m.how == how]) for how in HOW}
    return Impact(
        parts=tuple(_part(m, after.house) for m in sorted(moved, key=lambda m: (HOW.index(m.how), -len(m.rows)))),
        rooms=_shares(after.house, "room", rows),
        classes=_shares(after.house, "hardware_class", rows),
        kept=kept_count,
        seats=len(after.house),
        sentence=_sentence(rows, kept_count),
    )


def wanting(before: Standing | None, after: Standing) -> dict[int, list[Key]]:
    """What `after` finds off norm and `before` does not, or for another norm: by row of the house."""
    by_row: dict[int, list[Key]] = {}
    for moved in _compared(before, after)[0]:
        if moved.how in ("opens", "changes"):
            for row in moved.rows.tolist():
                by_row.setdefault(row, []).append(moved.key)
    return by_row


def _compared(before: Standing | None, after: Standing) -> tuple[list[_Moved], int]:
    """What moves, and how many findings stay as they are."""
    moved, kept_count = list[_Moved](), 0
    cases = before.cases if before else {}
    for key in dict.fromkeys([*cases, *after.cases]):
        was, now = cases.get(key), after.cases.get(key)
        if was and now and was.kinds is now.kinds:
            kept_count += now.kinds.off()
            continue
        moves, stay = _moves(key, was, now, len(after.house))
        moved += moves
        kept_count += stay
    return moved, kept_count


def _moves(key: Key, was: Case | None, now: Case | None, seats: int) -> tuple[list[_Moved], int]:
    nothing = np.full(seats, NO_NORM, dtype=np.int16)
    was_marks, two = (case.kinds.marks() if case else nothing for case in (was, now))
    off, on = has_status(was_marks, OFF_NORM), has_status(two, OFF_NORM)
    both = off & on
    other = both & (_saying(was, was_marks, now) != _saying(now, two, was)) if was and now else both
    by_how = {
        "opens": on & ~off,
        "closes": off & ~on & ~has_status(two, UNREAD),
        "changes": other,
        "unread": has_status(two, UNREAD) & ~has_status(was_marks, UNREAD),
    }
    moves = [_Moved(key, how, np.flatnonzero(rows)) for how, rows in by_how.items() if rows.any()]
    return moves, int(np.count_nonzero(both & ~other))


def _saying(case: Case | None, marks: Any, other: Case | None) -> Any:
    """For each seat a number for what its norm says: the same in both cases where it says the same."""
    assert case and other
    first, second = sorted((case, other), key=id)
    sayings = list(dict.fromkeys(_wording(rule) for rule in (*first.rules, *second.rules)))
    numbers = np.array([sayings.index(_wording(rule)) for rule in case.rules], dtype=np.int16)
    return numbers[places_of(marks)]


def _wording(rule: Rule) -> tuple[object, ...]:
    return rule.test, rule.text.severity, rule.fix.node if rule.fix else None


def _part(moved: _Moved, house: House) -> SettingImpact:
    setting, app = moved.key
    names = tuple(house.rows[row].seat.name for row in moved.rows[:NAMED].tolist())
    return SettingImpact(setting, app, catalogue()[setting].title, moved.how, len(moved.rows), names)


def _all(rows: list[Rows]) -> Rows:
    return np.concatenate(rows) if rows else np.zeros(0, dtype=np.int64)


def _shares(house: House, field: str, rows: dict[str, Rows]) -> tuple[GroupImpact, ...]:
    column = house.column(OfFacts("seat", (field,), None))
    codes, size = column.view(), len(column.values)
    counts = [np.bincount(codes[rows[how]], minlength=size).tolist() for how in HOW]
    shares = [
        GroupImpact(name or "", *counted) for name, *counted in zip(column.values, *counts, strict=True) if any(counted)
    ]
    return tuple(sorted(shares, key=lambda share: (-sum((share.opens, share.closes, share.changes)), share.name)))


def _sentence(rows: dict[str, Rows], unmoved: int) -> str:
    """`This would open 3 findings on 2 seats and close 1 finding on 1 seat; 14 would stay.`"""
    parts = list(_counts_of_parts(rows))
    if not parts:
        return f"This would open and close nothing; {counted(unmoved, 'finding')} would stay."
    return f"This would {listed(parts)}; {unmoved} would stay."


def _counts_of_parts(rows: dict[str, Rows]) -> Iterator[str]:
    words = {"opens": "open", "closes": "close", "changes": "change"}
    for how, word in words.items():
        if len(rows[how]):
            seats = counted(_distinct(rows[how]), "seat")
            yield f"{word} {counted(len(rows[how]), 'finding')} on {seats}"
    if len(rows["unread"]):
        yield f"leave {counted(len(rows['unread']), 'reading')} unread"


def _distinct(rows: Rows) -> int:
    return int(np.count_nonzero(np.bincount(rows)))
