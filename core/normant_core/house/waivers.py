"""Waivers: findings that somebody accepted for a reason, until a date or until a production ends."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import msgspec

from ..base.wording import listed
from ..judging.judge import Verdict
from ..seat.facts import Seat
from ..seat.survey import Key
from .marks import OFF_NORM, has_status
from .verdicts import Case, Standing

LONGEST = dt.timedelta(days=366)  # what is accepted for longer than a year belongs into the standard
WARNED = dt.timedelta(days=3)  # before the end
GROUPS = ("role", "room", "production", "hardware_class")


@dataclass(frozen=True, slots=True)
class Waiver:
    """`app` None: whichever application; `seats` empty: every seat that is in all of `groups` (field: value).

    It holds from `begins` until `ends`, where that is None until somebody says that `until_production` ended.
    """

    id: int
    setting: str
    app: str | None
    seats: frozenset[str]
    groups: Mapping[str, str]
    reason: str
    begins: dt.datetime
    ends: dt.datetime | None
    until_production: str = ""

    def holds(self, moment: dt.datetime) -> bool:
        """Whether it had begun and not ended."""
        return self.begins <= moment and (self.ends is None or moment < self.ends)

    def speaks_of(self, key: Key) -> bool:
        """Whether it is about this setting of this application."""
        return self.setting == key[0] and self.app in (None, key[1])

    def reaches(self, seat: Seat) -> bool:
        """Whether this seat is in its scope."""
        if self.seats and seat.name not in self.seats:
            return False
        return all(getattr(seat, field) == value for field, value in self.groups.items())


def waiver_of(waivers: Iterable[Waiver], seat: Seat, key: Key) -> Waiver | None:
    """The waiver that covers this finding: of several the one that holds longest."""
    speaking = [w for w in waivers if w.speaks_of(key) and w.reaches(seat)]
    return max(speaking, key=lambda w: (w.ends is None, w.ends or w.begins, w.id), default=None)


def rows_waived(standing: Standing, waivers: Iterable[Waiver]) -> dict[Key, set[int]]:
    """For each setting of each application the seats (rows of the house) that are off norm there and accepted."""
    by_key: dict[Key, set[int]] = {}
    for waiver in waivers:
        for key, case in standing.cases.items():
            if waiver.speaks_of(key):
                rows = _rows(case, waiver, standing)
                if rows:
                    by_key.setdefault(key, set()).update(rows)
    return by_key


def _rows(case: Case, waiver: Waiver, standing: Standing) -> set[int]:
    off = {mark for mark in case.kinds.table if has_status(mark, OFF_NORM) and not case.rule(mark).text.locked}
    rows = range(len(standing.house)) if not waiver.seats else standing.house.numbers(waiver.seats)
    reached = (row for row in rows if case.mark(row) in off)
    return {row for row in reached if waiver.reaches(standing.house.rows[row].seat)}


def waived(verdicts: Sequence[Verdict], seat: Seat, waivers: Sequence[Waiver]) -> list[Verdict]:
    """The verdicts, with what is off norm and covered marked `waived`. What a locked rule wants nobody waives."""
    return [_waived(verdict, seat, waivers) for verdict in verdicts] if waivers else list(verdicts)


def _waived(verdict: Verdict, seat: Seat, waivers: Sequence[Waiver]) -> Verdict:
    if verdict.status != "off-norm" or verdict.locked:
        return verdict
    waiver = waiver_of(waivers, seat, verdict.key)
    return msgspec.structs.replace(verdict, status="waived", reason=waiver.reason) if waiver else verdict


def scope_text(seats: Iterable[str], groups: Mapping[str, str]) -> str:
    """`pan-01 and pan-02`, `every seat of role offline in room Pan House`."""
    names = sorted(seats)
    if names:
        return listed(names)
    groups_named = [
        f"{field.replace('hardware_class', 'class')} {groups[field]}" for field in GROUPS if field in groups
    ]
    return f"every seat of {' and '.join(groups_named)}" if groups_named else "every seat"
