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
from normant_core.judging.judge import Verdict
from normant_core.plan.errands import Errand as CoreErrand
from normant_core.plan.errands import errand_for

from ..models import Errand


@transaction.atomic
def give_errands(
    user: User, findings: Iterable[Finding], *, rollout: int | None = None, held: bool = False
) -> list[Errand]:
    """An errand for each finding that a person can settle and that is on nobody's list yet.

    `held`: until the rollout that they belong to is approved.
    """
    known = list(findings)
    lock("errand", {finding.seat.name for finding in known})
    at_hand = {e.finding_id for e in Errand.objects.filter(ended_at=None, finding__in=known)}
    made = list[Errand]()
    for finding in known:
        work = errand_for(msgspec.convert(finding.verdict, Verdict), finding.seat.name)
        if work is None or finding.pk in at_hand:
            continue
        about = {"seat": finding.seat, "finding": finding, "rollout_id": rollout}
        made.append(
            Errand(
                **about,
                work=msgspec.to_builtins(work),
                made_by=user,
                state=Errand.State.HELD if held else Errand.State.OPEN,
            )
        )
    Errand.objects.bulk_create(made)
    if made:
        seats = sorted({errand.seat.name for errand in made})
        record(user.username, "give errands", "errands", seats=seats, numbers=[errand.pk for errand in made])
        tell("errand", "")
    return made


@transaction.atomic
def give_errand(user: User, seat: str, errand: CoreErrand, *, note: str = "") -> Errand:
    """An errand in somebody's own words. Raises Problem where there is no such seat."""
    row = Seat.objects.active().filter(name=seat).first()
    if row is None:
        raise Problem(422, "No such seat", f"there is no seat {seat}")
    made = Errand.objects.create(seat=row, work=msgspec.to_builtins(errand), note=note, made_by=user)
    record(user.username, "give errand", seat, errand=made.pk, does=errand.does)
    tell("errand", str(made.pk))
    return made
