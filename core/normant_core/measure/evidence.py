"""What verdicts of trials say of the rules of a standard: that they are measured, or that they are contradicted."""

import datetime as dt
from typing import Literal

import msgspec

from ..base.quantities import Value
from ..judging.judge import Judge, Outcome, View
from ..seat.survey import Key

Grade = Literal["measured", "contradicted"]


class Evidence(msgspec.Struct, frozen=True):
    """A rule, by its layer and its place in that as the text has them, and the trial that speaks of it."""

    at: tuple[int, int]
    grade: Grade
    trial: int
    setting: str
    app: str | None
    seats: tuple[str, ...]
    since: dt.datetime
    sentence: str


def graded(judge: Judge, view: View, key: Key, *, faster: Value, slower: Value) -> tuple[tuple[int, int], Grade] | None:
    """The rule that tells these two values of a reading apart on a seat, and whether it wants the faster one.

    None where no rule speaks of the reading there, or where both values are in norm, or neither is.
    """
    good, bad = (_judged(judge, view, key, value) for value in (faster, slower))
    if good is None or bad is None or good.status == bad.status:
        return None
    grade: Grade = "measured" if good.status == "in-norm" else "contradicted"
    path = judge.standard.rules[good.rule].path
    return ((int(path[1]), int(path[3])), grade) if path else None


def _judged(judge: Judge, view: View, key: Key, value: Value) -> Outcome | None:
    readings = {**view.readings, key: value}
    other = View(view.seat, view.facts, readings, view.errors, view.stores)
    outcomes = (outcome for outcome in judge.judge(other) if (outcome.setting, outcome.app) == key)
    return next((outcome for outcome in outcomes if outcome.status in ("in-norm", "off-norm")), None)
