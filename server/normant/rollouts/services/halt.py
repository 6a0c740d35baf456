"""Watching a rollout for signs of harm: nothing new begins before a person has looked."""

from django.db import transaction
from django.db.models import Count

from normant.findings.models import Finding
from normant_core.catalogue.settings import catalogue

from ..models import Leg, Rollout
from .stop import halt

TOLD = 6  # seats or findings that a reason names


@transaction.atomic
def halt_if_harmful(number: int) -> bool:
    """Halt a running rollout that does harm while seats still wait; whether that was so.

    A putting back goes on whatever happens: it is the help itself.
    """
    rollout = Rollout.objects.filter(pk=number, state=Rollout.State.RUNNING, kind=Rollout.Kind.CORRECT).first()
    if rollout is None or not rollout.legs.filter(state=Leg.State.WAITING).exists():
        return False
    why = _stopped(rollout) or _must_be_settled(rollout) or _became_worse(rollout)
    if why:
        halt(rollout, "server", f"{why}: no more seats start until a person has checked")
    return bool(why)


def _stopped(rollout: Rollout) -> str:
    """Which seats of one wave stopped, where they are too many."""
    most = rollout.core_terms.halt_after
    if not most:
        return ""
    stopped = rollout.legs.filter(state=Leg.State.STOPPED)
    if rollout.resumed_at:
        stopped = stopped.filter(ended_at__gt=rollout.resumed_at)
    many = stopped.values("wave").annotate(count=Count("pk")).filter(count__gte=most).order_by("wave").first()
    if many is None:
        return ""
    where = f"wave {many['wave']}" if many["wave"] else "the canaries"
    names = stopped.filter(wave=many["wave"]).values_list("seat__name", flat=True).order_by("seat__name")
    return f"{', '.join(names[:TOLD])} of {where} stopped"


def _became_worse(rollout: Rollout) -> str:
    """Which canaries play or render worse than before their change."""
    worse = rollout.legs.filter(measured__outcome="worse")
    if rollout.resumed_at:
        worse = worse.filter(ended_at__gt=rollout.resumed_at)
    return "; ".join(f"{leg.seat.name} {leg.message}" for leg in worse.select_related("seat")[:TOLD])


def _must_be_settled(rollout: Rollout) -> str:
    """What has to be settled on seats of this rollout that had it not before their turn, for whatever reason.

    What another edition of the standard found is no sign of harm: it was there before.
    """
    if not rollout.core_terms.halt_on_must:
        return ""
    new = Finding.objects.wanting().filter(severity="must").exclude(opened_by="standard")
    if rollout.resumed_at:
        new = new.filter(opened_at__gt=rollout.resumed_at)
    begun = dict(rollout.legs.filter(begun_at__isnull=False).values_list("seat", "begun_at"))
    findings = [f for f in new.filter(seat__in=begun).select_related("seat") if f.opened_at > begun[f.seat_id]]
    names = list(dict.fromkeys(f"{catalogue()[f.setting].title} on {f.seat.name}" for f in findings))
    more = f" and {len(names) - TOLD} more" if len(names) > TOLD else ""
    return f"new critical findings since the change: {', '.join(names[:TOLD])}{more}" if names else ""
