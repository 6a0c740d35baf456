"""Signing a plan of clearing: what is on its lists goes, and nothing else."""

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant_core.care.clearing import kind_words

from ..authority import SIGNED, list_name
from ..models import Clearing, SeatClearing, StoreClearing
from .advance_clearing import advance_clearing_soon

STALE_HOURS = 48  # a list that is older says nothing of a store any more


def seen_of_clearing(clearing: Clearing) -> str:
    """What a person signs: every list, by its digest, of every store."""
    stores = StoreClearing.objects.filter(of__clearing=clearing, going__gt=0)
    rows = stores.values_list("of__seat__name", "app", "kind", "planned__folder", "planned__digest", "planned__at_once")
    return seen_of(clearing.pk, clearing.wanted, list(rows))


def sign_or_propose(clearing: Clearing, user: User, seen: str) -> Proposal | None:
    """Sign it, or where the house asks for a second person, have it wait for one. Raises Problem."""
    if not settings.NORMANT.second_person:
        sign_clearing(clearing, user, seen)
        return None
    _check(clearing, seen)
    stores = StoreClearing.objects.filter(of__clearing=clearing, going__gt=0).select_related("of__seat")
    lines = [clearing.title, *(_line(store) for store in stores)]
    return propose(
        user, Wanted("sign_clearing", f"clearing {clearing.pk}", lines, {"clearing": clearing.pk, "seen": seen})
    )


def _line(store: StoreClearing) -> str:
    where = f"{store.of.seat.name}, {kind_words(store.kind)} of {store.app or 'the system'}"
    return f"{where}: {store.going:,} items, {store.going_size:,} bytes; list {store.planned['digest'][:12]}…"


def sign_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    clearing = Clearing.objects.filter(pk=body["clearing"]).first()
    if clearing is None:
        raise Problem(409, "Nothing was planned", "the plan no longer exists")
    sign_clearing(clearing, user, body["seen"])


def _check(clearing: Clearing, seen: str) -> None:
    if clearing.state != Clearing.State.PLANNED:
        raise Problem(409, "Not to be signed", f"this plan is {clearing.state}")
    need_seen(seen, seen_of_clearing(clearing), "this plan")
    if not StoreClearing.objects.filter(of__clearing=clearing, going__gt=0).exists():
        raise Problem(422, "Nothing to remove", "this plan has no files to delete")
    if (timezone.now() - clearing.created_at).total_seconds() > STALE_HOURS * 3600:
        raise Problem(409, "Too old", f"the file lists are more than {STALE_HOURS} hours old: create a new plan")


@transaction.atomic
def sign_clearing(clearing: Clearing, user: User | None, seen: str, closes: dt.datetime | None = None) -> None:
    """From now on its seats clear, in waves, until it `closes`. Without a user standing care signs, where a person had
    agreed to it before. Raises Problem where it is not what was read, or was signed before."""
    seats = SeatClearing.objects.filter(clearing=clearing, ended_at=None)
    lock("leg", seats.values_list("seat__name", flat=True))
    row = Clearing.objects.select_for_update(no_key=True).get(pk=clearing.pk)
    _check(row, seen)
    row.state, row.signed_by, row.signed_at, row.closes = Clearing.State.RUNNING, user, timezone.now(), closes
    row.save(update_fields=["state", "signed_by", "signed_at", "closes"])
    with_items = SeatClearing.objects.filter(pk__in=seats.filter(stores__going__gt=0))
    with_items.update(state=SeatClearing.State.WAITING)
    seats.exclude(state=SeatClearing.State.WAITING).update(
        state=SeatClearing.State.DONE, message="it has no files to delete", ended_at=timezone.now()
    )
    stores = StoreClearing.objects.filter(of__clearing=row, going__gt=0).select_related("of__seat")
    lists = {list_name(s.of.seat.name, s.app, s.kind): s.planned["digest"] for s in stores}
    who = user.username if user else "server"
    record(who, SIGNED, f"clearing {row.pk}", bytes=sum(s.counted_size for s in stores), lists=lists)
    advance_clearing_soon(row.pk)
    tell("clearing", str(row.pk))
