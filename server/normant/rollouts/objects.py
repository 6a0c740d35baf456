"""Rollouts as the API tells them."""

from collections import Counter
from typing import Any

from normant.accounts.models import User
from normant.seats.floor import is_heard
from normant_core.base.wording import counted, opening

from .models import STEPS, Leg, Rollout
from .services.advance import Turns
from .services.stop import kept_from_beginning, may_be_tried_again, seats_to_put_back, written_by


def rollout_row(rollout: Rollout) -> dict[str, Any]:
    """A rollout in a list; its legs are at hand."""
    states = Counter(leg.state for leg in rollout.legs.all())
    return {
        "id": rollout.pk,
        "title": rollout.title,
        "kind": rollout.kind,
        "state": rollout.state,
        "created_by": rollout.created_by.username,
        "created_at": rollout.created_at,
        "ended_at": rollout.ended_at,
        "seats": states.total(),
        "counts": states,
        "sentence": _sentence(states),
    }


def rollout_object(rollout: Rollout, asks: User | None = None) -> dict[str, Any]:
    """A rollout with every leg, for somebody who asks."""
    report = rollout.reports.first() if rollout.ended_at else None
    legs = list(rollout.legs.select_related("seat__presence").order_by("wave", "seat__room", "seat__name"))
    turns = Turns(rollout)
    written = written_by(rollout)
    changed = seats_to_put_back(rollout) if rollout.kind == Rollout.Kind.CORRECT else set[int]()
    running = rollout.state == Rollout.State.RUNNING
    held = [leg for leg in legs if leg.state == Leg.State.WAITING and not leg.begun_at]
    return {
        **rollout_row(rollout),
        "starts_at": rollout.core_terms.begins,
        "of": rollout.of_id,
        "reason": rollout.reason,
        "approved_by": rollout.approved_by.username if rollout.approved_by else None,
        "can_approve": rollout.state == Rollout.State.PROPOSED and rollout.created_by != asks,
        "report": report.digest if report else None,
        "can_resume": rollout.state == Rollout.State.HALTED and kept_from_beginning(rollout).exists(),
        "can_begin_now": running and turns.waits_for_its_hour() and bool(held),
        "can_go_on": running and not turns.waits_for_its_hour() and any(map(turns.waits_for_its_wave, held)),
        "behind_canaries": turns.wave == 0,
        "can_put_back": bool(changed),
        "put_back_by": rollout.put_backs.values_list("pk", flat=True).last(),
        "errands": rollout.errands.to_run().count(),
        "steps": STEPS,
        "legs": [
            {
                **_leg(leg, turns),
                "can_put_back": leg.seat_id in changed and leg.state != Leg.State.MOVING,
                "can_retry": rollout.state != Rollout.State.HALTED and may_be_tried_again(leg, written),
            }
            for leg in legs
        ],
    }


def leg_message(leg: Leg, turns: Turns) -> str:
    """What is said of a leg: what it waits for, or what came of it."""
    if leg.state != Leg.State.WAITING:
        return leg.message
    if not leg.begun_at and (why := turns.why_waiting(leg)):
        return why
    if not is_heard(leg.seat):
        return "offline: continues when the seat returns"
    return leg.message or ("sent; waiting for the seat" if leg.begun_at else "")


def _leg(leg: Leg, turns: Turns) -> dict[str, Any]:
    message, heard = leg_message(leg, turns), is_heard(leg.seat)
    return {
        "seat": leg.seat.name,
        "room": leg.seat.room,
        "wave": leg.wave,
        "state": leg.state,
        "step": leg.step,
        "message": message,
        "moved_at": leg.moved_at,
        "ended_at": leg.ended_at,
        "troubled": leg.state == Leg.State.STOPPED
        or _wants_leave(leg)
        or (leg.state == Leg.State.WAITING and _is_held_up(leg, heard=heard)),
        "objection": leg.objection if leg.state == Leg.State.WAITING else "",
        "asks_waiver": leg.asks_waiver,
        "put_off": leg.put_off if leg.state == Leg.State.WAITING and not leg.begun_at else 0,
    }


def _wants_leave(leg: Leg) -> bool:
    """Whether something was installed, and somebody at the seat has to let the machine start again."""
    return leg.state == Leg.State.MOVING and leg.step == "restart" and bool(leg.message)


def _is_held_up(leg: Leg, *, heard: bool) -> bool:
    """Whether somebody may have to do something, or has to know: all others only take their time."""
    return bool(leg.objection) or (leg.begun_at is not None and (bool(leg.message) or not heard))


def _sentence(states: Counter[str]) -> str:
    """Return the seats by state: `2 of 4 seats settled, 1 stopped, 1 waiting.`, or `1 seat: waiting.`"""
    if states.total() == 1:
        return f"1 seat: {_state_word(next(iter(states.elements())))}."
    settled = f"{states['settled']:,}"
    parts = [opening(f"{settled} of {counted(states.total(), 'seat')} settled")]
    for state in (Leg.State.MOVING, Leg.State.STOPPED, Leg.State.WAITING, Leg.State.HALTED):
        if states[state]:
            parts.append(f"{states[state]:,} {_state_word(state)}")
    return ", ".join(parts) + "."


def _state_word(state: str) -> str:
    """Return a seat's state in words: the API's `moving` is called running everywhere else."""
    return "running" if state == Leg.State.MOVING else state
