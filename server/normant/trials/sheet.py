"""The run sheet: what whoever is at a seat does next."""

from typing import Any

import msgspec

from normant.accounts.models import User

from .models import Run, Trial, TrialSeat
from .services.advance_trial import BY_HAND, RUNS
from .services.by_hand import due_run
from .services.held import standing


def sheet_object(trial: Trial, seat: TrialSeat, user: User) -> dict[str, Any]:
    """As it stands."""
    question = trial.core_question
    assert question.by_hand
    rows = list(trial.seats.select_related("seat"))
    run = due_run(seat) if seat.ended_at is None else None
    return {
        "title": trial.title,
        "job": question.job,
        "state": trial.state,
        "by_hand": msgspec.structs.asdict(question.by_hand),
        "seat": seat.seat.name,
        "message": "" if seat.message == BY_HAND else seat.message,
        "seats": [{"seat": row.seat.name, "state": row.state, "message": row.message} for row in rows],
        "run": _run_object(run, user) if run else None,
    }


def _run_object(run: Run, user: User) -> dict[str, Any]:
    stands = standing(run)
    return {
        "id": run.pk,
        "block": run.block,
        "place": run.place + 1,
        "in_block": run.of.runs.filter(block=run.block).count(),
        "condition": run.condition,
        "state": stands.state,
        "until": stands.until,
        "taken_by": run.taken_by if stands.state != "free" else "",
        "mine": run.taken_by == user.username,
        "takes": run.takes if stands.state != "free" else [],
        "needed": RUNS,
    }
