"""Judging a seat against the standard in force: findings opened, kept or closed, levels drawn."""

import datetime as dt
from collections.abc import Callable

import msgspec
from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.seats.models import Seat
from normant.seats.views_of import latest_survey, view_of
from normant_core.drift import Judge, Verdict
from normant_core.levels import levels
from normant_core.survey import Key

from ..models import Finding

By = Callable[[Key], str]


@transaction.atomic
def evaluate(seat: Seat, judge: Judge, by: By, *, at: dt.datetime | None = None) -> None:
    """Bring the seat's findings in line with its newest survey, taken `at`; `by` says who moved a reading."""
    lock("evaluate", [seat.name])
    survey = latest_survey(seat)
    if survey is None:
        return
    view = view_of(seat, survey)
    verdicts = judge.verdicts(view, every=True)
    off = {verdict.key: verdict for verdict in verdicts if verdict.status == "off-norm"}
    now = at or timezone.now()
    for finding in Finding.objects.open().filter(seat=seat):
        key = (finding.setting, finding.app or None)
        if key in off:
            _keep(finding, off.pop(key))
        else:
            finding.closed_at, finding.closed_by = max(now, finding.opened_at), by(key)  # clocks differ
            finding.save(update_fields=["closed_at", "closed_by"])
    Finding.objects.bulk_create(
        Finding(
            seat=seat,
            setting=verdict.setting,
            app=verdict.app or "",
            severity=verdict.severity,
            verdict=msgspec.to_builtins(verdict),
            opened_at=now,
            opened_by=by(key),
        )
        for key, verdict in off.items()
    )
    seat.levels = [msgspec.to_builtins(level) for level in levels(verdicts)]
    seat.off_norm = sum(verdict.status == "off-norm" for verdict in verdicts)
    seat.save(update_fields=["levels", "off_norm"])
    tell("seat", seat.name)


def _keep(finding: Finding, verdict: Verdict) -> None:
    plain = msgspec.json.decode(msgspec.json.encode(verdict))
    if finding.verdict != plain:
        finding.verdict, finding.severity = plain, verdict.severity
        finding.save(update_fields=["verdict", "severity"])
