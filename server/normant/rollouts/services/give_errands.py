"""Giving errands: from findings that no order can settle, or written by hand."""

from collections.abc import Iterable

import msgspec
from django.db import transaction

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.findings.models import Finding
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant_core.drift import Verdict
from normant_core.errands import Errand as CoreErrand
from normant_core.errands import errand_for

from ..models import Errand, Rollout


@transaction.atomic
def give_errands(user: User, findings: Iterable[Finding], *, rollout: Rollout | None = None) -> list[Errand]:
    """An errand for each finding that a person can settle and that is on nobody's list yet.

    Those of a rollout that waits for approval are held until then.
    """
    known = list(findings)
    lock("errand", {finding.seat.name for finding in known})
    at_hand = {e.finding_id for e in Errand.objects.filter(ended_at=None, finding__in=known)}
    made = list[Errand]()
    for finding in known:
        told = errand_for(msgspec.convert(finding.verdict, Verdict), finding.seat.name)
        if told is None or finding.pk in at_hand:
            continue
        state = "held" if rollout and rollout.state == "proposed" else "open"
        about = {"seat": finding.seat, "finding": finding, "rollout": rollout}
        made.append(Errand(**about, told=msgspec.to_builtins(told), made_by=user, state=state))
    Errand.objects.bulk_create(made)
    if made:
        seats = sorted({errand.seat.name for errand in made})
        record(user.username, "give errands", "errands", seats=seats, numbers=[errand.pk for errand in made])
        tell("errand", "")
    return made


@transaction.atomic
def give_errand(user: User, seat: str, told: CoreErrand, *, note: str = "") -> Errand:
    """An errand in somebody's own words. Raises Problem where there is no such seat."""
    found = Seat.objects.active().filter(name=seat).first()
    if found is None:
        raise Problem(422, "No such seat", f"there is no seat {seat}")
    made = Errand.objects.create(seat=found, told=msgspec.to_builtins(told), note=note, made_by=user)
    record(user.username, "give errand", seat, errand=made.pk, does=told.does)
    tell("errand", str(made.pk))
    return made
