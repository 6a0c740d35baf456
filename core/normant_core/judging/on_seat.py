"""What each rule of a standard comes to on one seat, shown beside it while it is written."""

from collections.abc import Iterator

import msgspec

from ..catalogue.settings import catalogue
from ..rules.evaluate import evaluate
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
    _, layer, _, number = rule.path
    spoken = False
    for key in view.readings:
        if key[0] != rule.setting.key or rule.app not in (None, key[1]):
            continue
        speaking = judge.speaking(view, key)
        own = next((scope for other, scope in speaking if other is rule), None)
        if own is None:
            continue
        spoken = True
        norm = norm_of(rule, own)
        met = evaluate(rule.test, own)
        yield OnSeat(
            int(layer),
            int(number),
            key[1],
            "made" if speaking[0][0] is rule else "lost",
            norm.sentence,
            reading_shown(catalogue()[key[0]], own),
            met if isinstance(met, bool) else None,
        )
    if not spoken:
        yield OnSeat(int(layer), int(number), None, "silent", "", "", None)
