"""What trials bring to the round: verdicts against the standard, GPUs that did not work, and what was measured."""

import datetime as dt
from collections.abc import Iterator
from typing import Any

from normant.trials.evidence import evidence_now
from normant.trials.machine.proof import idle_gpus
from normant.trials.models import Trial
from normant.trials.objects import trial_rows
from normant_core.base.wording import with_app
from normant_core.catalogue.settings import catalogue

FEW = 12  # seats of one item that are told
NEWEST = 3  # trials: Measure has all of them


def verdicts_against() -> Iterator[dict[str, Any]]:
    """Verdicts that contradict a rule: it may be the standard that has to change."""
    for spoken in evidence_now():
        if spoken.grade == "contradicted":
            title = f"{with_app(catalogue()[spoken.setting].title, spoken.app)}: a trial contradicts the standard"
            yield {
                "kind": "verdict",
                "title": title,
                "words": f"{spoken.sentence}, but the standard rejects it.",
                "seats": list(spoken.seats[:FEW]),
                "seat_count": len(spoken.seats),
                "trial": spoken.trial,
                "since": spoken.since,
            }


def idle_seats() -> Iterator[dict[str, Any]]:
    """GPUs that runs were to have at work, and that were not: whatever is believed of these seats is not so."""
    for run, proof in idle_gpus():
        seat = run.of.seat.name
        yield {
            "kind": "idle_gpu",
            "title": f"{proof['device']} of {seat} was not used although it should have been",
            "words": proof["sentence"],
            "seats": [seat],
            "seat_count": 1,
            "trial": run.of.trial_id,
            "since": run.ended_at,
        }


def ended_trials(since: dt.datetime) -> Iterator[dict[str, Any]]:
    """What was measured since the evening before."""
    rows = Trial.objects.filter(state=Trial.State.ENDED, ended_at__gt=since).prefetch_related("seats__seat")
    trials = list(rows[:NEWEST])
    for trial, row in zip(trials, trial_rows(trials), strict=True):
        yield {
            "kind": "trial",
            "title": trial.title,
            "words": row["sentence"],
            "seats": row["seats"][:FEW],
            "seat_count": len(row["seats"]),
            "trial": trial.pk,
            "since": trial.ended_at,
        }
