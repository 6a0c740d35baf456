"""Halting a plan, going on with it, dropping it, and putting back what is still held."""

from collections import defaultdict
from collections.abc import Sequence

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant_core.orders.kinds import PutBack

from ..models import Clearing, SeatClearing, StoreClearing
from .advance_clearing import advance_clearing_soon, end_if_over, end_looking, end_seat, halt


def _locked(clearing: Clearing) -> Clearing:
    lock("leg", clearing.seats.values_list("seat__name", flat=True))
    return Clearing.objects.select_for_update(no_key=True).get(pk=clearing.pk)


@transaction.atomic
def halt_clearing(clearing: Clearing, user: User, why: str) -> None:
    """Nothing more goes until somebody resumes it. Raises Problem where it does not run."""
    row = _locked(clearing)
    if row.state != Clearing.State.RUNNING:
        raise Problem(409, "Nothing to halt", f"this plan is {row.state}")
    record(user.username, "halt clearing", f"clearing {row.pk}", why=why)
    halt(row, why)


@transaction.atomic
def resume_clearing(clearing: Clearing, user: User) -> None:
    """It goes on with what has not gone; what made it halt halts it no more. Raises Problem where it is not halted."""
    row = _locked(clearing)
    if row.state != Clearing.State.HALTED:
        raise Problem(409, "Nothing to resume", f"this plan is {row.state}")
    stores = StoreClearing.objects.filter(of__clearing=row)
    failed = stores.exclude(failed="").values("of").distinct().count()
    seen = list(stores.filter(cleared__isnull=False).values_list("pk", flat=True))
    row.overlooked = {"failed": failed, "stores": seen}
    row.state, row.reason = Clearing.State.RUNNING, ""
    row.save(update_fields=["overlooked", "state", "reason"])
    row.seats.filter(state=SeatClearing.State.AT_WORK).update(state=SeatClearing.State.WAITING)
    record(user.username, "resume clearing", f"clearing {row.pk}")
    advance_clearing_soon(row.pk)
    tell("clearing", str(row.pk))


@transaction.atomic
def leave_out(clearing: Clearing, user: User) -> None:
    """Go on without the seats that have not answered. Raises Problem where none is waited for."""
    row = _locked(clearing)
    silent = list(row.seats.filter(state=SeatClearing.State.LOOKING).select_related("seat"))
    if not silent:
        raise Problem(409, "Nobody to wait for", f"this plan is {row.state}")
    for seat in silent:
        end_seat(seat, SeatClearing.State.STOPPED, "skipped: no answer")
    record(user.username, "leave out", f"clearing {row.pk}", seat=", ".join(seat.seat.name for seat in silent)[:200])
    end_looking(row.pk)


@transaction.atomic
def drop_clearing(clearing: Clearing, user: User) -> None:
    """Nobody wants it any more: of one that was halted, what is left stays. Raises Problem where it runs or is over."""
    row = _locked(clearing)
    if row.state not in (Clearing.State.LOOKING, Clearing.State.PLANNED, Clearing.State.HALTED):
        raise Problem(409, "Nothing to drop", f"this plan is {row.state}")
    _drop(row, user.username)


def give_up_clearing(clearing: Clearing) -> None:
    """Standing care wants it no more, unless somebody signed it meanwhile."""
    row = _locked(clearing)
    if row.state in (Clearing.State.LOOKING, Clearing.State.PLANNED):
        _drop(row, "server")


def _drop(row: Clearing, who: str) -> None:
    for seat in row.seats.filter(ended_at=None).select_related("seat"):
        end_seat(seat, SeatClearing.State.STOPPED, "dropped")
    record(who, "drop clearing", f"clearing {row.pk}")
    if row.signed_at:
        end_if_over(row)
    else:
        row.state, row.ended_at = Clearing.State.DROPPED, timezone.now()
        row.save(update_fields=["state", "ended_at"])
    tell("clearing", str(row.pk))


@transaction.atomic
def put_clearing_back(clearing: Clearing, user: User) -> int:
    """Have every seat put back what it still holds; on how many stores. Raises Problem where nothing is held."""
    row = _locked(clearing)
    held = held_stores(StoreClearing.objects.filter(of__clearing=row))
    if not held:
        raise Problem(409, "Nothing to put back", "this plan has no held files left")
    issue_put_back(held, user.username)
    return len(held)


def held_stores(stores: QuerySet[StoreClearing]) -> list[StoreClearing]:
    """Those of which a seat still holds files, and is not asked yet to put them back."""
    cleared = stores.filter(cleared__isnull=False, is_back=False).select_related("of__seat", "of__clearing")
    now = timezone.now()
    held = [store for store in cleared if (it := store.core_cleared) and it.held_until and it.held_until > now]
    waiting = Order.objects.waiting().filter(kind="put_back", clearing__in={store.of_id for store in held})
    asked = set(waiting.values_list("clearing", "place"))
    return [store for store in held if (store.of_id, store.place) not in asked]


def issue_put_back(held: Sequence[StoreClearing], actor: str) -> None:
    """Have their seats put back what they hold; whoever calls holds the locks of these seats."""
    orders, seats = Order.objects.filter(kind="clear_planned"), defaultdict[int, set[str]](set)
    for store in held:
        done = orders.filter(clearing=store.of_id, place=store.place, received_at__isnull=False)
        for order in done.filter(receipt__cleared__items__gt=0):
            issue_order(store.of.seat, PutBack(str(order.pk)), clearing=store.of, place=store.place)
        seats[store.of.clearing_id].add(store.of.seat.name)
    for number, names in seats.items():
        record(actor, "put clearing back", f"clearing {number}", seats=sorted(names))
        tell("clearing", str(number))


@transaction.atomic
def leave_seat_to_itself(seat: Seat) -> None:
    """Nobody answers for this seat any more: its part of every plan ends."""
    lock("leg", [seat.name])
    for row in SeatClearing.objects.filter(seat=seat, ended_at=None).select_related("seat"):
        end_seat(row, SeatClearing.State.STOPPED, "the seat was retired")
        end_looking(row.clearing_id)
        advance_clearing_soon(row.clearing_id)
