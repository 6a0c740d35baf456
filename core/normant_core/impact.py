"""The impact of another edition: which findings it would open and close, before anybody publishes it."""

from collections.abc import Iterable

import msgspec

from .catalogue import catalogue
from .drift import Judge, Outcome, View


class Move(msgspec.Struct, frozen=True):
    """One setting on one seat that would change its standing."""

    seat: str
    setting: str
    app: str | None
    title: str
    opens: bool


class Impact(msgspec.Struct, frozen=True):
    """What would open, what would close, and how many findings would stay."""

    opened: tuple[Move, ...]
    closed: tuple[Move, ...]
    kept: int
    seats: int

    @property
    def sentence(self) -> str:
        """`This would open 3 findings on 2 seats and close 1 on 1 seat; 14 stay.`"""
        if not self.opened and not self.closed:
            return f"This would open and close nothing; {_count(self.kept, 'finding')} would stay."
        parts = [f"open {_told(self.opened)}", f"close {_told(self.closed)}"]
        return f"This would {parts[0]} and {parts[1]}; {self.kept} would stay."


def impact(before: Judge | None, after: Judge, views: Iterable[View]) -> Impact:
    """Compare two editions over the seats as they are. `before` is None where nothing was published yet."""
    opened, closed, kept, seats = list[Move](), list[Move](), 0, 0
    for view in views:
        seats += 1
        old = _off(before.judge(view)) if before else {}
        new = _off(after.judge(view))
        opened += [_move(view, outcome, opens=True) for key, outcome in new.items() if key not in old]
        closed += [_move(view, outcome, opens=False) for key, outcome in old.items() if key not in new]
        kept += len(old.keys() & new.keys())
    return Impact(tuple(opened), tuple(closed), kept, seats)


def _off(outcomes: Iterable[Outcome]) -> dict[tuple[str, str | None], Outcome]:
    return {(o.setting, o.app): o for o in outcomes if o.status == "off-norm"}


def _move(view: View, outcome: Outcome, *, opens: bool) -> Move:
    title = catalogue()[outcome.setting].title
    return Move(view.seat.name, outcome.setting, outcome.app, title, opens)


def _told(moves: tuple[Move, ...]) -> str:
    if not moves:
        return "none"
    return f"{_count(len(moves), 'finding')} on {_count(len({m.seat for m in moves}), 'seat')}"


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}" if number == 1 else f"{number} {noun}s"
