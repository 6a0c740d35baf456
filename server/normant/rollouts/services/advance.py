"""Moving rollouts on. Each function may run twice, or after a crash, without harm."""

import datetime as dt

from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from normant.bookings.rooms import booked_rooms, why_booked
from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.local_time import local_words
from normant.common.locks import lock
from normant.findings.models import Finding
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import keys_of
from normant.seats.floor import is_heard
from normant.seats.models import Seat
from normant.trials.models import TrialSeat

from ..models import Leg, Rollout
from .issue_leg import issue_for
from .measuring import keep_shown, measure_first, shown_by
from .news import tell_of_leg, tell_of_legs
from .report import make_report

OCCUPIED = "waiting for another rollout on this seat"
CLEANING = "waiting for a clean-up on this seat"
MEASURED = "waiting for a trial on this seat"


@transaction.atomic
def advance(rollout: int) -> None:
    """Begin every leg that may begin: orders are written for it."""
    waiting = Leg.objects.filter(rollout=rollout, state=Leg.State.WAITING, begun_at=None)
    lock("leg", waiting.values_list("seat__name", flat=True))
    row = Rollout.objects.select_for_update(no_key=True).filter(pk=rollout, state=Rollout.State.RUNNING).first()
    if row is None:
        return
    turn = Turns(row)
    for leg in waiting.select_related("seat", "rollout__of").order_by("wave", "not_before", "seat__name"):
        if turn.may_begin(leg):
            _begin(leg)
    finish_if_over(row)
    tell("rollout", str(rollout))


class Turns:
    """Whose turn it is in a running rollout: waves one behind the other, limits of rooms and roles, a pause between."""

    def __init__(self, rollout: Rollout) -> None:
        self.terms = rollout.core_terms
        self.now = timezone.now()
        legs = list(rollout.legs.select_related("seat__presence"))
        # Seats that are silent, or where somebody put it off, hold nobody up: they go on when their time comes.
        here = [leg for leg in legs if leg.ended_at is None and is_heard(leg.seat) and not self._held(leg)]
        last = max((leg.wave for leg in legs), default=0)
        self.wave = max(rollout.open_wave, min((leg.wave for leg in here), default=last))
        self.at_work = [leg for leg in here if leg.begun_at]
        if self.terms.at_once or self.terms.left_working:
            self.at_work += _at_work_elsewhere(rollout)
        self.roles = dict(Seat.objects.active().values_list("role").annotate(Count("pk")))
        ended = [leg.ended_at for leg in legs if leg.wave < self.wave and leg.ended_at]
        pause = dt.timedelta(minutes=self.terms.pause)
        self.paused = max(ended) + pause if ended and rollout.open_wave < self.wave else self.now
        self.opens = max(self.terms.begins or self.now, self.paused)
        # What is put back waits for no booking.
        rooms = {leg.seat.room for leg in legs if leg.begun_at is None} if rollout.kind == Rollout.Kind.CORRECT else ()
        self.booked = booked_rooms(rooms, self.now) if rooms else {}

    def may_begin(self, leg: Leg) -> bool:
        """Whether this leg may begin now; if so it counts as begun."""
        if leg.wave > self.wave or self.now < self.opens or self.why_not(leg):
            return False
        self.at_work.append(leg)
        return True

    def waits_for_its_hour(self) -> bool:
        """Whether nothing begins before an hour that was chosen for it."""
        return self.terms.begins is not None and self.terms.begins > self.now

    def waits_for_its_wave(self, leg: Leg) -> bool:
        """Whether a wave before it, or the pause between them, holds it."""
        return leg.wave > self.wave or self.now < self.paused

    def why_not(self, leg: Leg) -> str:
        """What of this moment is in its way; empty where nothing is."""
        if leg.objection:
            asks = "asks for a waiver" if leg.asks_waiver else "objects"
            return f"somebody at the seat {asks}: {leg.objection}"
        if leg.not_before and leg.not_before > self.now:
            words = "postponed at the seat until" if self._held(leg) else "starts at"
            return f"{words} {local_words(leg.not_before, self.now)}"
        local = timezone.localtime(self.now)
        if (window := self.terms.window(local)) and window[0] > local:
            return f"changes are made from {window[0]:%H:%M} to {window[1]:%H:%M}"
        if booked := why_booked(leg.seat.room, self.booked, self.now):
            return booked
        in_room = sum(other.seat.room == leg.seat.room for other in self.at_work)
        if self.terms.at_once and in_room >= self.terms.at_once:
            return f"{self.terms.at_once} at the same time in {leg.seat.room or 'no room'}"
        of_role = sum(other.seat.role == leg.seat.role for other in self.at_work)
        left = self.roles.get(leg.seat.role, 0) - of_role
        if self.terms.left_working and left <= self.terms.left_working:
            return f"{self.terms.left_working} of role {leg.seat.role} must stay free to work"
        return ""

    def _held(self, leg: Leg) -> bool:
        """Whether somebody at the seat holds it."""
        put_off = bool(leg.put_off and leg.not_before and leg.not_before > self.now)
        return leg.begun_at is None and (bool(leg.objection) or put_off)

    def why_waiting(self, leg: Leg) -> str:
        """Why a leg that has not begun waits."""
        if self._held(leg):
            return self.why_not(leg)
        if leg.wave > self.wave:
            return "after the canaries" if self.wave == 0 else f"after wave {self.wave}"
        if self.now < self.opens:
            return f"the wave starts at {local_words(self.opens, self.now)}"
        return self.why_not(leg)


def _at_work_elsewhere(rollout: Rollout) -> list[Leg]:
    """Seats on which other rollouts are at work: a room is as disturbed by them, a role as short of seats."""
    others = Leg.objects.filter(begun_at__isnull=False, ended_at=None).exclude(rollout=rollout)
    return [leg for leg in others.select_related("seat__presence") if is_heard(leg.seat)]


def _begin(leg: Leg) -> None:
    if Leg.objects.filter(seat=leg.seat, begun_at__isnull=False, ended_at=None).exists():
        leg.message = OCCUPIED
        leg.save(update_fields=["message", "moved_at"])
        return
    if TrialSeat.objects.at_work().filter(seat=leg.seat).exists():
        leg.message = MEASURED
        leg.save(update_fields=["message", "moved_at"])
        return
    if Order.objects.cleaning_up().filter(seat=leg.seat).exists():
        leg.message = CLEANING
        leg.save(update_fields=["message", "moved_at"])
        return
    leg.begun_at, leg.message = timezone.now(), ""
    leg.save(update_fields=["begun_at", "message", "moved_at"])
    tell("planned", leg.seat.name)
    if not measure_first(leg) and not issue_for(leg):
        end(leg, Leg.State.SETTLED, "nothing to put back")


def end(leg: Leg, state: str, message: str = "") -> None:
    """A leg has ended; the rollout too, with its last. Legs that waited for this seat may begin."""
    leg.state, leg.message, leg.ended_at = state, message, timezone.now()
    if state == Leg.State.SETTLED:
        leg.step = "settled"
    leg.save()
    finish_if_over(leg.rollout)
    record(f"agent {leg.seat.name}", f"leg {state}", f"rollout {leg.rollout_id}", seat=leg.seat.name, message=message)
    others = Leg.objects.filter(seat=leg.seat, state=Leg.State.WAITING, begun_at=None).values_list("rollout", flat=True)
    own = leg.rollout.legs.filter(state=Leg.State.WAITING, begun_at=None).values_list("rollout", flat=True)
    for waiting in {*others, *own}:
        advance_soon(waiting)


def advance_soon(rollout: int) -> None:
    """Let a worker move the rollout on, once this transaction is committed; one job that waits is enough."""
    after_commit("rollouts.advance", once=f"advance {rollout}", rollout=rollout)


def finish_if_over(rollout: Rollout) -> None:
    """A rollout ends with its last leg.

    Of two that end at the same instant the second waits here for the first: else each would take the other for one that
    goes on, and the rollout would never end.
    """
    Rollout.objects.select_for_update(no_key=True).filter(pk=rollout.pk).first()
    if rollout.legs.filter(ended_at=None).exists():
        return
    ended = Rollout.objects.filter(pk=rollout.pk, ended_at=None)
    ended.filter(state=Rollout.State.RUNNING).update(state=Rollout.State.FINISHED)  # one that was halted stays halted
    if ended.update(ended_at=timezone.now()):
        make_report(rollout.pk)
        if rollout.of_id:
            make_report(rollout.of_id)
    tell_of_legs(rollout)


@transaction.atomic
def settle(seat: Seat, taken_at: dt.datetime | None) -> None:
    """Look, after a survey or a receipt, whether the leg at work on the seat has what it asked for.

    A survey taken after the last receipt decides; `taken_at` is None when a receipt asks.
    """
    lock("leg", [seat.name])
    legs = Leg.objects.select_related("rollout", "seat")
    leg = legs.filter(seat=seat, begun_at__isnull=False, ended_at=None).first()
    if leg is None:
        return
    orders = list(leg.orders.filter(withdrawn_at=None))
    if any(order.receipt is None for order in orders):
        return
    measured = [order for order in orders if order.kind == "measure"]
    orders = [order for order in orders if order.kind != "measure"]
    wrong = [o.receipt for o in orders if o.receipt["outcome"] != "done"]
    if measured and not orders:
        _change_what_was_measured(leg, measured)
    elif wrong:
        end(leg, Leg.State.STOPPED, "; ".join(_receipt_message(receipt) for receipt in wrong))
    elif leg.rollout.kind == Rollout.Kind.PUT_BACK:
        message = "; ".join(o.receipt["message"] for o in orders if o.receipt.get("message"))
        end(leg, Leg.State.SETTLED, message or "put back byte for byte")
    else:
        _settle_by_findings(leg, orders, taken_at=taken_at)
    tell_of_leg(leg)


def _change_what_was_measured(leg: Leg, measured: list[Order]) -> None:
    """The turn goes on, unless the rollout was halted meanwhile, or the seat would become worse: it stays as it was."""
    if leg.rollout.state == Rollout.State.HALTED:
        end(leg, Leg.State.HALTED, "halted before any change")
        return
    if keep_shown(leg, measured):
        end(leg, Leg.State.STOPPED, f"{shown_by(leg)}; no files were changed")
        return
    leg.state, leg.step, leg.message = Leg.State.WAITING, "waiting", ""
    leg.save(update_fields=["state", "step", "message", "moved_at"])
    issue_for(leg)


def _settle_by_findings(leg: Leg, orders: list[Order], *, taken_at: dt.datetime | None) -> None:
    keys = {(setting, app or "") for order in orders for setting, app in keys_of(order)}
    still = [f for f in Finding.objects.open().filter(seat=leg.seat) if (f.setting, f.app) in keys]
    if not still:
        end(leg, Leg.State.SETTLED, shown_by(leg))
    elif taken_at and taken_at > max(dt.datetime.fromisoformat(o.receipt["at"]) for o in orders if o.receipt):
        end(leg, Leg.State.STOPPED, "the next survey still shows " + ", ".join(f.setting for f in still) + " off norm")
    else:
        leg.message = "written and verified; waiting for the next survey"
        leg.save(update_fields=["message", "moved_at"])


def _receipt_message(receipt: dict[str, object]) -> str:
    outcome = str(receipt["outcome"])
    message = str(receipt.get("message") or "")
    return message if outcome == "accepted_as" else f"{outcome}: {message}"
