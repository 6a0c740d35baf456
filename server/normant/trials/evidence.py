"""Which rules of the standard in force are measured, and which a verdict contradicts: read from the trials."""

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

import msgspec

from normant.seats.models import Seat
from normant.seats.views_of import latest_views, survey_at
from normant.standards.current import current_judge
from normant_core.base.quantities import Value
from normant_core.catalogue.settings import catalogue
from normant_core.judging.judge import View
from normant_core.measure.evidence import Evidence, graded
from normant_core.measure.holding import HoldsFor, grown_old
from normant_core.measure.question import Question, SetValue, it_does
from normant_core.seat.survey import Key

from .models import Trial

LATEST = 50  # trials that are looked at, the newest first
CLEAR = ("better", "worse")


class FasterValue(NamedTuple):
    """Of one reading a faster and a slower value (None: as the seat was), and that in words."""

    key: Key
    faster: SetValue | None
    slower: SetValue | None
    sentence: str


def evidence_now() -> list[Evidence]:
    """The newest verdict for each rule that any speaks of; what has grown old says nothing."""
    judge = current_judge()
    trials = Trial.objects.filter(state=Trial.State.ENDED).prefetch_related("seats__seat")[:LATEST]
    if judge is None or not trials:
        return []
    seats = {row.seat_id for trial in trials for row in trial.seats.all()}
    views = {seat.pk: view for seat, view in latest_views(Seat.objects.filter(pk__in=seats))}
    made = dict[tuple[int, int], Evidence]()
    for trial in trials:
        for evidence in _of_trial(trial, views):
            made.setdefault(evidence.at, evidence)
    return [made[at] for at in sorted(made)]


def _of_trial(trial: Trial, views: Mapping[int, View]) -> Iterator[Evidence]:
    judge, rows = current_judge(), [row for row in trial.seats.all() if row.seat_id in views and row.state == "done"]
    facts = {row.seat.name: views[row.seat_id].facts for row in rows}
    if judge is None or not rows or grown_old(msgspec.convert(trial.holds_for, HoldsFor), facts):
        return
    place = msgspec.convert(trial.holds_for, HoldsFor).place
    # Seats of a trial are of a kind: the first speaks for them.
    seat, view = rows[0].seat, views[rows[0].seat_id]
    before = survey_at(seat, trial.created_at)
    was = before.values() if before else {}
    for finding in _findings(trial.core_question, trial.shown or {}):
        values = [_value(wanted, finding.key, was) for wanted in (finding.faster, finding.slower)]
        if values[0] is None or values[1] is None:
            continue
        spoken_of = graded(judge, view, finding.key, faster=values[0], slower=values[1])
        if spoken_of and trial.ended_at:
            names = tuple(row.seat.name for row in rows)
            sentence = f"{place}: {finding.sentence}"
            yield Evidence(*spoken_of, trial.pk, *finding.key, names, trial.ended_at, sentence)


def _value(wanted: SetValue | None, key: Key, was: Mapping[Key, Value]) -> Value | None:
    return catalogue()[key[0]].parse(wanted.value) if wanted else was.get(key)


def _findings(question: Question, shown: Mapping[str, Any]) -> Iterator[FasterValue]:
    """Of conditions that set one and the same setting, and of factors with a single one."""
    sets = {condition.name: condition.sets for condition in question.conditions}
    for row in shown.get("comparisons", ()):
        first, second = sets.get(row["of"], ()), sets.get(row["against"], ())
        keys = {(wanted.setting, wanted.app) for wanted in (*first, *second)}
        if row["outcome"] in CLEAR and len(keys) == 1 and max(len(first), len(second)) == 1:
            yield _finding(keys.pop(), next(iter(first), None), next(iter(second), None), row, question.job)
    for row in shown.get("effects", ()):
        factor = sets.get(row["factor"], ())
        if row["outcome"] in CLEAR and len(factor) == 1:
            key = factor[0].setting, factor[0].app
            yield _finding(key, factor[0], None, {**row, "of": factor[0].shown, "against": "before"}, question.job)


def _finding(key: Key, of: SetValue | None, against: SetValue | None, row: Mapping[str, Any], job: str) -> FasterValue:
    better = row["outcome"] == "better"
    fast, slow = (row["of"], row["against"]) if better else (row["against"], row["of"])
    ratio = row["ratio"] if better else 1 / row["ratio"]
    faster, slower = (of, against) if better else (against, of)
    return FasterValue(key, faster, slower, f"{fast} {it_does(job)} {ratio:.2f} times as fast as {slow}")
