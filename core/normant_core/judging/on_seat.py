"""What each rule of a standard comes to on one seat, shown beside it while it is written."""

from collections.abc import Iterator

import msgspec

from ..catalogue.settings import catalogue
from ..rules.evaluate import evaluate
from ..seat.survey import Key
from ..standard.rule import Rule
from .judge import Judge, View
from .norms import norm_of, reading_shown


class OnSeat(msgspec.Struct, frozen=True):
    """A rule on one reading of a seat: what it wants there, whether it makes the norm, and whether it is met.

    `how` is made, lost or silent (it does not apply); `met` is None where something was not read.
    """

    layer: int
    rule: int
    app: str | None
    how: str
    wants: str
    reading: str
    met: bool | None


def on_seat(judge: Judge, view: View) -> list[OnSeat]:
    """For each rule each reading that it speaks of; a rule that speaks of none is silent once."""
    return [line for rule in judge.standard.rules if rule.path for line in _lines_of_rule(judge, view, rule)]


def _lines_of_rule(judge: Judge, view: View, rule: Rule) -> Iterator[OnSeat]:
    keys = [key for key in view.readings if key[0] == rule.setting.key and rule.app in (None, key[1])]
    lines = [line for key in keys if (line := _line(judge, view, rule, key))]
    yield from lines or [OnSeat(int(rule.path[1]), int(rule.path[3]), None, "silent", "", "", None)]


def _line(judge: Judge, view: View, rule: Rule, key: Key) -> OnSeat | None:
    """What a rule says of one reading; None where it does not speak of that."""
    speaking = judge.speaking(view, key)
    own = next((scope for other, scope in speaking if other is rule), None)
    if own is None:
        return None
    met = evaluate(rule.test, own)
    return OnSeat(
        int(rule.path[1]),
        int(rule.path[3]),
        key[1],
        "made" if speaking[0][0] is rule else "lost",
        norm_of(rule, own).sentence,
        reading_shown(catalogue()[key[0]], own),
        met if isinstance(met, bool) else None,
    )
