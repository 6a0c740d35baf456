"""Trials as they are told."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from math import log
from statistics import geometric_mean
from typing import Any

import msgspec

from normant.seats.views_of import latest_surveys
from normant_core.base.wording import counted
from normant_core.measure.holding import HoldsFor, grown_old
from normant_core.measure.looks import LOOKS, expected_blocks
from normant_core.measure.question import Question, beside_words, factor_columns
from normant_core.measure.trial import SCATTER
from normant_core.seat.survey import Survey

from .models import Run, Trial, TrialSeat
from .services.advance_trial import RUNS
from .services.start_trial import Asked

SECONDS = {"decode": 8, "disk": 8, "play": 20, "render": 150}  # of one run, as long as nobody knows better
SETTING = 30  # to close an application, set it and open it


def trial_rows(trials: Sequence[Trial]) -> Iterator[dict[str, Any]]:
    """Each in short; `trials` with their seats and their runs' counts at hand."""
    seats = {row.seat_id for trial in trials for row in trial.seats.all()}
    surveys = latest_surveys(seats)
    made = Counter(Run.objects.that_count().filter(of__trial__in=trials).values_list("of__trial", flat=True))
    for trial in trials:
        yield trial_row(trial, surveys, made[trial.pk])


def trial_row(trial: Trial, surveys: dict[int, Survey], made: int) -> dict[str, Any]:
    """One of them; `made` is how many of its runs count."""
    question, shown, rows = trial.core_question, trial.shown or {}, list(trial.seats.all())
    in_block = _runs_of_block(question)
    return {
        "id": trial.pk,
        "title": trial.title,
        "kind": question.kind,
        "job": question.job,
        "state": trial.state,
        "sentence": _sentence(trial, made, rows),
        "old": _old(trial, rows, surveys),
        "seats": [row.seat.name for row in rows],
        "blocks": round(made / in_block / max(1, len(rows)), 1),
        "expected": shown.get("expected") or expected_blocks(SCATTER, question.matters),
        "created_by": trial.created_by.username,
        "created_at": trial.created_at,
        "ended_at": trial.ended_at,
        "matters": question.matters,
        "interval": _clearest(shown),
    }


def _clearest(shown: dict[str, Any]) -> dict[str, Any] | None:
    """Return the comparison or effect that differs most, a decided one before any other."""
    rows = [
        {
            "name": f"{row['of']} against {row['against']}" if "of" in row else row["factor"],
            **{key: row[key] for key in ("ratio", "low", "high", "outcome")},
        }
        for row in (*shown.get("comparisons", ()), *shown.get("effects", ()))
        if row["ratio"]
    ]
    decided = [row for row in rows if row["outcome"] in ("better", "worse")]
    return max(decided or rows, key=lambda row: abs(log(row["ratio"])), default=None)


def _runs_of_block(question: Question) -> int:
    """How many runs a block has; of a ladder two."""
    if question.kind == "screening":
        return 1 << next(size for size in (2, 3, 4) if len(question.conditions) < 1 << size)
    return 2 if question.kind == "ladder" else len(question.conditions)


def _sentence(trial: Trial, made: int, rows: Sequence[TrialSeat]) -> str:
    sentence = str((trial.shown or {}).get("sentence", ""))
    if trial.state == Trial.State.RUNNING:
        return f"{counted(made, 'run').capitalize()} so far." + (f" So far: {sentence}" if sentence else "")
    if trial.state == Trial.State.HALTED:
        return f"Halted after {counted(made, 'run')}: {trial.reason}"
    if not sentence:
        why = next((row.message for row in rows if row.message), "every seat stopped")
        return f"No result: {why}"
    place = msgspec.convert(trial.holds_for, HoldsFor).place if trial.holds_for else ""
    return f"{place}: {sentence}" if place else sentence


def _old(trial: Trial, rows: Iterable[TrialSeat], surveys: dict[int, Survey]) -> str:
    """What moved since the verdict; empty where it holds, or where there is none."""
    if trial.state != Trial.State.ENDED or not trial.holds_for:
        return ""
    now = {row.seat.name: surveys[row.seat_id].facts for row in rows if row.seat_id in surveys}
    return grown_old(msgspec.convert(trial.holds_for, HoldsFor), now)


def trial_object(trial: Trial) -> dict[str, Any]:
    """All of one."""
    question, shown = trial.core_question, trial.shown or {}
    beside = question.beside
    rows = list(trial.seats.select_related("seat"))
    runs = list(Run.objects.filter(of__trial=trial).select_related("of__seat").order_by("pk"))
    counting = Run.objects.that_count().filter(of__trial=trial).count()
    return {
        **trial_row(trial, latest_surveys(row.seat_id for row in rows), counting),
        "because": trial.because,
        "reason": trial.reason,
        "begins": trial.begins,
        "clip": trial.clip.name if trial.clip else "",
        "clip_id": trial.clip_id,
        "volume": trial.volume,
        "by_hand": question.by_hand and msgspec.to_builtins(msgspec.structs.asdict(question.by_hand)),
        "beside": {"job": beside.job, "app": beside.app, "words": beside_words(beside)} if beside else None,
        "conditions": [msgspec.to_builtins(condition) for condition in question.conditions],
        "on": [{"seat": r.seat.name, "state": r.state, "message": r.message, "ended_at": r.ended_at} for r in rows],
        "runs": [_run_object(run) for run in runs],
        "means": _means(runs),
        "comparisons": shown.get("comparisons", []),
        "effects": shown.get("effects", []),
        "smallest": shown.get("smallest", ""),
    }


def _means(runs: Iterable[Run]) -> dict[str, float]:
    """The geometric mean of each condition's figures."""
    figures = defaultdict[str, list[float]](list)
    for run in runs:
        if run.figure is not None:
            figures[run.condition].append(run.figure)
    return {name: geometric_mean(values) for name, values in figures.items()}


def _run_object(run: Run) -> dict[str, Any]:
    return {
        "id": run.pk,
        "seat": run.of.seat.name,
        "block": run.block,
        "place": run.place,
        "condition": run.condition,
        "figure": run.figure,
        "thrown": run.thrown,
        "harmful": run.harmful,
        "beside": run.beside,
        "ended_at": run.ended_at,
        "has_samples": run.samples is not None,
    }


def run_rows(trial: Trial) -> Iterator[dict[str, Any]]:
    """The runs that count in the columns that `normant trial verdict`, or `screen`, reads."""
    question = trial.core_question
    runs = Run.objects.that_count().filter(of__trial=trial).select_related("of__seat").order_by("pk")
    for run in runs:
        if question.kind == "screening":
            block = f"{run.of.seat.name}/{run.block}"
            yield {"block": block, **factor_columns(question, run.condition), "value": run.figure}
        else:
            yield {"seat": run.of.seat.name, "block": run.block, "condition": run.condition, "value": run.figure}


def nothing_to_look_at(why: str) -> dict[str, Any]:
    """A question that cannot be asked as it stands, and why."""
    empty = {
        "title": "",
        "conditions": [],
        "expected_blocks": 0,
        "most_blocks": 0,
        "runs": 0,
        "minutes": 0,
        "closes": [],
    }
    return {**empty, "unfit": [why], "outdated": []}


def look_object(asked: Asked, unfit: Sequence[str], closes: Sequence[str]) -> dict[str, Any]:
    """What starting it would mean."""
    question = asked.question
    in_block = _runs_of_block(question)
    expected = 2 if question.kind == "screening" else expected_blocks(SCATTER, question.matters)
    most = 2 if question.kind == "screening" else LOOKS[-1]
    runs = expected * in_block
    beside = SECONDS[question.beside.job] if question.beside else 0
    seconds = runs * (RUNS * (SECONDS[question.job] + beside) + SETTING * 2 * bool(closes))
    return {
        "title": asked.title,
        "conditions": question.names,
        "unfit": list(unfit),
        "expected_blocks": expected,
        "most_blocks": most,
        "runs": runs,
        "minutes": max(1, round(seconds / 60)),
        "closes": list(closes),
    }
