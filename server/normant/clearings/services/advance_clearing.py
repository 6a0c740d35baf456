"""Moving plans of clearing on. Each function may run twice, or after a crash, without harm."""

import datetime as dt
from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from normant.bookings.rooms import booked_rooms, why_booked
from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.locks import lock
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant.trials.models import TrialSeat
from normant_core.base.wording import counted
from normant_core.orders.kinds import ClearPlanned

from ..figures import Figures
from ..models import Clearing, SeatClearing, StoreClearing
from ..planned import Grounds

FIRST, AT_ONCE = 1, 25  # seats that clear before all others, and then at the same moment
MOST_FAILED = 2  # seats on which nothing went as it was to: then it halts
UNLISTED, UNLISTED_STRICTLY = 0.1, 0.01  # of a store's items that are not as they were listed: then it halts
FEW = 20  # items not as listed that say nothing of a plan that a person watches
CLOSED = "the time window ended before it had finished"
OCCUPIED = "a rollout or trial is running on this seat"
CLEARED = "another clean-up is running on this seat"


def advance_clearing_soon(clearing: int) -> None:
    """Let a worker move the plan on, once this transaction is committed; one job that waits is enough."""
    after_commit("clearings.advance", once=f"clearing {clearing}", clearing=clearing)


@transaction.atomic
def end_looking(number: int) -> None:
    """The plan can be read as soon as no seat looks any more."""
    rows = Clearing.objects.select_for_update(no_key=True).filter(pk=number, state=Clearing.State.LOOKING)
    clearing = rows.first()
    if clearing and not clearing.seats.filter(state=SeatClearing.State.LOOKING).exists():
        clearing.state = Clearing.State.PLANNED
        clearing.save(update_fields=["state"])
        tell("clearing", str(number))


@transaction.atomic
def advance_clearing(number: int) -> None:
    """Let further seats clear, halt where things are not as listed, or end what is over."""
    going = SeatClearing.objects.filter(clearing=number, ended_at=None)
    lock("leg", going.values_list("seat__name", flat=True))
    clearing = Clearing.objects.select_for_update(no_key=True).filter(pk=number).first()
    if clearing is None:
        return
    if clearing.state == Clearing.State.LOOKING:
        _stop_looking(clearing, going)
    if clearing.state != Clearing.State.RUNNING:
        return
    if why := _why_halt(clearing):
        halt(clearing, why)
        return
    if clearing.begins and clearing.begins > timezone.now():
        return
    seats = list(going.select_related("seat").order_by("pk"))
    _stop_released(seats)
    _stop_late(clearing, seats)
    _let_begin(clearing, [row for row in seats if row.ended_at is None])
    end_if_over(clearing)


def _stop_late(clearing: Clearing, seats: Sequence[SeatClearing]) -> None:
    """Its hours are over: what a seat has not cleared by now stays."""
    if clearing.closes and clearing.closes <= timezone.now():
        for row in seats:
            if row.ended_at is None:
                end_seat(row, SeatClearing.State.STOPPED, CLOSED)


def _let_begin(clearing: Clearing, seats: Sequence[SeatClearing]) -> None:
    """Further seats have their turn, as many as may be at work at once."""
    at_work = sum(row.state == SeatClearing.State.AT_WORK for row in seats)
    is_first = not clearing.seats.filter(state=SeatClearing.State.DONE, begun_at__isnull=False).exists()
    room = (FIRST if is_first else AT_ONCE) - at_work
    waiting = [row for row in seats if row.state == SeatClearing.State.WAITING]
    whys = _in_the_way(waiting) if room > 0 else {}
    for row in waiting:
        if row.pk in whys:
            _say(row, whys[row.pk])
        elif room > 0:
            _begin(row)
            room -= 1


def _stop_looking(clearing: Clearing, going: QuerySet[SeatClearing]) -> None:
    """A seat that has not answered before its order's time was over is left out."""
    late = timezone.now() - dt.timedelta(hours=1)
    for row in going.filter(state=SeatClearing.State.LOOKING, clearing__created_at__lt=late):
        end_seat(row, SeatClearing.State.STOPPED, "did not answer within 1 hour")
    end_looking(clearing.pk)
    clearing.refresh_from_db()


def _why_halt(clearing: Clearing) -> str:
    """Why nothing more may go; empty where it may. A person who resumed it has seen what was before."""
    stores = StoreClearing.objects.filter(of__clearing=clearing)
    failed = stores.exclude(failed="").values("of").distinct().count()
    if failed >= MOST_FAILED + clearing.overlooked.get("failed", 0):
        return f"on {counted(failed, 'seat')} a clean-up failed"
    seen = clearing.overlooked.get("stores", [])
    few, share = (0, UNLISTED_STRICTLY) if clearing.is_strict else (FEW, UNLISTED)
    for store in stores.filter(cleared__isnull=False).exclude(pk__in=seen).select_related("of__seat"):
        unlisted = store.going - int((store.cleared or {}).get("items", 0))
        if unlisted > max(few, share * store.going):
            part = f"{unlisted:,} of {store.going:,} items"
            return f"on {store.of.seat.name}, {part} were not as they had been listed"
    return ""


def halt(clearing: Clearing, why: str) -> None:
    """Nothing more goes; what a seat is at ends. Who holds the plan's row, and its seats' locks, may ask."""
    clearing.state, clearing.reason = Clearing.State.HALTED, why[:300]
    clearing.save(update_fields=["state", "reason"])
    waiting = Order.objects.waiting().filter(clearing__clearing=clearing, kind="clear_planned")
    for name in waiting.values_list("seat__name", flat=True).distinct():
        tell("orders", name)
    waiting.update(withdrawn_at=timezone.now())
    record("server", "halt clearing", f"clearing {clearing.pk}", why=why)
    tell("clearing", str(clearing.pk))


def _stop_released(seats: Sequence[SeatClearing]) -> None:
    """Stop seats whose lists rest on a delivery that was withdrawn, or on a production that has not ended."""
    grounds = Grounds()
    for row in seats:
        if why := grounds.lost(row.stores.all()):
            end_seat(row, SeatClearing.State.STOPPED, f"{why}. Create a new plan")


def _in_the_way(rows: Sequence[SeatClearing]) -> dict[int, str]:
    """Why seats may not clear at this moment; those that may are not told of."""
    numbers, now = [row.seat_id for row in rows], timezone.now()
    at_trial = TrialSeat.objects.at_work().filter(seat__in=numbers).values_list("seat", flat=True)
    at_leg = Seat.objects.filter(pk__in=numbers, legs__begun_at__isnull=False, legs__ended_at=None)
    occupied = {*at_trial, *at_leg.values_list("pk", flat=True)}
    others = SeatClearing.objects.filter(seat__in=numbers, state=SeatClearing.State.AT_WORK)
    cleared = set(others.values_list("seat", flat=True))
    booked = booked_rooms({row.seat.room for row in rows}, now)
    whys = {
        row.pk: OCCUPIED
        if row.seat_id in occupied
        else CLEARED
        if row.seat_id in cleared
        else why_booked(row.seat.room, booked, now)
        for row in rows
    }
    return {number: why for number, why in whys.items() if why}


def _begin(row: SeatClearing) -> None:
    plan = row.orders.filter(kind="plan_clearing").latest("created_at")
    row.stores.filter(cleared__isnull=True).update(failed="")
    for store in row.stores.filter(going__gt=0, cleared__isnull=True).order_by("place"):
        planned = store.core_planned
        kind: Any = planned.kind
        action = ClearPlanned(str(plan.pk), planned.app, kind, planned.folder, planned.digest, planned.at_once)
        issue_order(row.seat, action, clearing=row, place=store.place)
    row.state, row.message = SeatClearing.State.AT_WORK, ""
    row.begun_at = row.begun_at or timezone.now()
    row.save(update_fields=["state", "message", "begun_at"])


def _say(row: SeatClearing, message: str) -> None:
    if row.message != message:
        row.message = message[:500]
        row.save(update_fields=["message"])


def end_seat_if_over(row: SeatClearing) -> None:
    """A seat is done when each of its stores has been cleared, or was not to be."""
    open_stores = row.stores.filter(going__gt=0, cleared__isnull=True, failed="")
    if open_stores.exists():
        return
    failed = row.stores.exclude(failed="").first()
    state = SeatClearing.State.STOPPED if failed else SeatClearing.State.DONE
    end_seat(row, state, failed.failed if failed else "")


def end_seat(row: SeatClearing, state: str, message: str = "") -> None:
    """The plan is over on a seat; what of it waits there is withdrawn."""
    Order.objects.waiting().filter(clearing=row).exclude(kind__in=("put_back", "send_list")).update(
        withdrawn_at=timezone.now()
    )
    tell("orders", row.seat.name)
    row.state, row.message, row.ended_at = state, message[:500], timezone.now()
    row.save(update_fields=["state", "message", "ended_at"])


def end_if_over(clearing: Clearing) -> None:
    """A plan ends with its last seat; who holds its row may ask."""
    if clearing.ended_at or clearing.seats.filter(ended_at=None).exists():
        return
    clearing.state, clearing.ended_at = Clearing.State.ENDED, timezone.now()
    clearing.save(update_fields=["state", "ended_at"])
    stores = StoreClearing.objects.filter(of__clearing=clearing)
    promised, cleared, held, freed = (sum(sizes) for sizes in zip(Figures(), *(s.figures for s in stores), strict=True))
    sizes = {"promised": promised, "cleared": cleared, "held": held, "freed": freed}
    record("server", "end clearing", f"clearing {clearing.pk}", **sizes)
    tell("clearing", str(clearing.pk))
