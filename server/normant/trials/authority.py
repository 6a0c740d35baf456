"""By which authority a seat is measured: a run of a trial that a person started, of what the trial asks."""

from collections.abc import Iterable, Sequence

from normant.dialects.current import dialects
from normant.orders.authority import is_signed_by_person
from normant.orders.models import Order
from normant.seats.views_of import latest_survey
from normant_core.base.errors import NormantError
from normant_core.base.quantities import Plain
from normant_core.measure.conditions import changes_for, values_of
from normant_core.measure.question import SetValue, sets_of
from normant_core.orders.kinds import EndHold, HoldCondition, Measure, Settable

from .models import Run, Trial


def why_no_run(order: Order, action: Measure | HoldCondition | EndHold) -> str:
    """Why no trial has a seat do this; empty where one does."""
    run = Run.objects.select_related("of__trial", "of__seat").filter(pk=order.run_id, of__seat=order.seat_id).first()
    if run is None:
        return "it belongs to no trial on this seat"
    trial = run.of.trial
    if not is_signed_by_person(f"trial {trial.pk}", ("start trial",), question=trial.question):
        return "the ledger has no entry by which somebody started this trial"
    if isinstance(action, EndHold):
        return ""
    if run.of.ended_at or trial.state != Trial.State.RUNNING:
        return "its trial is not at work on this seat"
    return _why_not_asked(run, trial, action.under)


def _why_not_asked(run: Run, trial: Trial, under: Sequence[Settable]) -> str:
    """Return why the changes of a run are not those of its condition; empty where they are.

    A seat that has some of the values already is sent the others only. A value that a file cannot hold exactly is sent
    as the file can hold it: 12.8 GiB in whole MiB.
    """
    sets = sets_of(trial.core_question, run.condition)
    others = values_of(under) - {(wanted.setting, wanted.app, wanted.value) for wanted in sets}
    if others and others - _as_files_hold(run, sets):
        return "its trial sets something else for this run"
    return ""


def _as_files_hold(run: Run, sets: Iterable[SetValue]) -> set[tuple[str, str | None, Plain]]:
    """Return setting, application and value of what a plan would change now for this run."""
    survey = latest_survey(run.of.seat)
    if survey is None:
        return set()
    try:
        return values_of(changes_for(sets, survey, dialects()))
    except NormantError:
        return set()
