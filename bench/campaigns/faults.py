"""The fault campaign: real processes, each fault at each step of a rollout, on each kind of change, forth and back.

Every seat of a round stands at one step of its order when the fault comes. After each round every seat must have
ended, hold either what it held before or what it was to hold, and have been written at most once for each order.
"""

import datetime as dt
import re
import signal
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Any

from django.db import close_old_connections, connection

from normant_standin.host import HELD, WRITTEN
from normant_standin.machine import Machine

from ..measure import Figure
from .hostile import hostile_orders
from .stage import FOLDER, STEPS, Case, Stage, findings_of, other_than_at_first, staged
from .trial_faults import trials_under_faults

if TYPE_CHECKING:
    from normant.rollouts.models import Leg, Rollout

BY_HAND = "by hand: the value"  # the one fault after which a seat rightly is not as the plan wanted it


@dataclass(frozen=True, slots=True)
class Fault:
    """What goes wrong, and what ends it."""

    begin: Callable[[Stage], None]
    end: Callable[[Stage], None]
    lasts: float = 0.5
    files_only: bool = False


def _all(**what: Any) -> Callable[[Stage], None]:
    def change(stage: Stage) -> None:
        for case in stage.cases:
            case.set(**what)

    return change


def _by_hand(which: str) -> Callable[[Stage], None]:
    def change(stage: Stage) -> None:
        for case in stage.cases:
            case.change(getattr(case.kind, which))
            case.by_hand = which

    return change


def _clock_stops(stage: Stage) -> None:
    for case in stage.cases:
        case.set(clock_stands_at=case.host.now())


def _everything_dies(stage: Stage) -> None:
    for process in (stage.server, stage.worker, stage.seats):
        process.kill()
    stage.restart_database()


def _everything_starts(stage: Stage) -> None:
    stage.seats.start()
    stage.worker.start()
    stage.start_server()


def _nothing(stage: Stage) -> None:
    return


FAULTS = {
    "agent killed": Fault(lambda s: s.seats.kill(), lambda s: s.seats.start()),
    "worker killed": Fault(lambda s: s.worker.kill(), lambda s: s.worker.start()),
    "web process killed": Fault(lambda s: s.server.kill(), Stage.start_server),
    "PostgreSQL killed": Fault(Stage.restart_database, _nothing),
    "all of them killed": Fault(_everything_dies, _everything_starts),
    "disk full": Fault(_all(disk_full=True), _all(disk_full=False), lasts=3),
    "network cut": Fault(_all(online=False), _all(online=True), lasts=3),
    "by hand: another value": Fault(_by_hand("other"), _nothing, files_only=True),
    BY_HAND: Fault(_by_hand("value"), _nothing),
    "clock stopped": Fault(_clock_stops, _all(clock_stands_at=None), lasts=3),
    "handed in twice": Fault(_all(hands_in_twice=True), _all(hands_in_twice=False)),
}


def faults(seats: int) -> list[Figure]:
    """At least 100 distinct cases, all of them good; a table of them."""
    with staged(FOLDER) as stage:
        begun = time.monotonic()
        for name, fault in FAULTS.items():
            for way in ("correct", "put back"):
                _round(stage, name, fault, back=way == "put back")
        trials_under_faults(stage, {name: (f.begin, f.end, f.lasts) for name, f in FAULTS.items()})
        hostile_orders(stage)
        _two_at_once(stage)
        _print(stage)
    counted = sum(stage.rows.values(), Counter[tuple[str, bool]]())
    cases, good = counted.total(), sum(n for (_, passed), n in counted.items() if passed)
    against = f"of {cases} cases good, in {time.monotonic() - begun:.0f} s"
    return [Figure("faults", cases, "", against, good / cases, "100 distinct cases, all good", good == cases >= 100)]


def _two_at_once(stage: Stage) -> None:
    """Two supervisors start the same seats at the same instant: on each seat one waits, and none interleaves."""
    for case in stage.cases:
        case.reset()
        case.by_hand = ""
        (case.folder / WRITTEN).unlink(missing_ok=True)
    stage.until("every seat is off norm again", lambda: other_than_at_first(stage.cases))
    both, barrier = list[int](), threading.Barrier(2)

    def begin(cases: Sequence[Case]) -> None:
        barrier.wait()
        both.append(_start(stage, cases))
        connection.close()

    # Of all and of all but one: the same plan started twice would be one rollout.
    threads = [threading.Thread(target=begin, args=[cases]) for cases in (stage.cases, stage.cases[1:])]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    stage.until("every seat has ended, twice", lambda: _under_way(both))
    row = stage.rows.setdefault("two rollouts at once", Counter())
    for case in stage.cases[1:]:
        legs = [leg for leg in _legs(both) if leg.seat.name == case.seat]
        turns = [(leg.begun_at, leg.ended_at) for leg in legs]
        good = [leg.state for leg in legs] == ["settled", "settled"] and _apart(turns)
        good = good and not _wrong(case, legs[0], back=False)
        row[case.step, good] += 1
        if not good:
            leg_states = ", ".join(f"{leg.state} from {leg.begun_at} to {leg.ended_at} {leg.message}" for leg in legs)
            stage.wrong.append(f"two at once, {case}: {leg_states}")
            print(stage.wrong[-1], file=sys.stderr, flush=True)


def _apart(turns: Sequence[tuple[dt.datetime | None, dt.datetime | None]]) -> bool:
    """Whether each ended before the next began."""
    return all(ended and begun and ended <= begun for (_, ended), (begun, _) in pairwise(turns))


def _round(stage: Stage, name: str, fault: Fault, *, back: bool) -> None:
    """One fault, with every seat at its step; `back`: while what was rolled out is put back."""
    print(f"{name}{', putting back' if back else ''} ...", file=sys.stderr, flush=True)
    for case in stage.cases:
        case.reset()
        case.by_hand = ""
        (case.folder / WRITTEN).unlink(missing_ok=True)
    stage.until("every seat is off norm again", lambda: other_than_at_first(stage.cases))
    rollouts = list[int]()
    if back:
        done = _start(stage, stage.cases)
        stage.until("all are settled", lambda: _under_way([done]))
    for case in stage.cases:
        case.set(holds_at=case.step)
    early = [case for case in stage.cases if case.step != "waiting"]
    rollouts.append(_back(done, early) if back else _start(stage, early))
    stage.until("every seat is at its step", lambda: _elsewhere(rollouts[0], early), seconds=40)
    stage.pause_worker()
    late = [case for case in stage.cases if case.step == "waiting"]
    rollouts.append(_back(done, late) if back else _start(stage, late))
    fault.begin(stage)
    for case in stage.cases:
        case.set(holds_at="")
    if name not in ("worker killed", "all of them killed"):
        stage.worker.kill(signal.SIGCONT)
    time.sleep(fault.lasts)
    fault.end(stage)
    stage.until("every seat has ended", lambda: _under_way(rollouts))
    if name == "disk full" and not back:
        _again(rollouts)
        stage.until("every seat has ended", lambda: _under_way(rollouts))
    row = f"{name}{', putting back' if back else ''}"
    _judge(stage, row, fault, rollouts, back=back)


def _elsewhere(rollout: int, cases: Sequence[Case]) -> list[str]:
    """Seats that do not stand at their step; a survey is held back before the receipt as well, but that is too soon."""
    from normant.orders.models import Order  # noqa: PLC0415 (after setup)

    received = Order.objects.filter(leg__rollout=rollout, received_at__isnull=False)
    states = {leg.seat.name: f"{leg.state}: {leg.message}" for leg in _legs([rollout])}
    here = {*received.values_list("seat__name", flat=True)}
    held = {case.seat: case.folder / HELD for case in cases}
    return [
        f"{case} {states.get(case.seat)}"
        for case in cases
        if not held[case.seat].exists()
        or held[case.seat].read_text("utf-8") != case.step
        or (case.step == "survey" and case.seat not in here)
    ]


def _judge(stage: Stage, row: str, fault: Fault, rollouts: Sequence[int], *, back: bool) -> None:
    legs = {leg.seat.name: leg for leg in _legs(rollouts)}
    counts = stage.rows.setdefault(row, Counter())
    for case in stage.cases:
        if fault.files_only and not case.kind.file:
            continue
        why = _wrong(case, legs.get(case.seat), back=back)
        counts[case.step, not why] += 1
        if why:
            stage.wrong.append(f"{row}, at {case.step}, {case.kind.name}: {why}")
            print(stage.wrong[-1], file=sys.stderr, flush=True)


def _wrong(case: Case, leg: "Leg | None", *, back: bool) -> str:
    """What is not as it must be on one seat; empty where all is."""
    if leg is None:
        return "the seat was lost"
    change, held = leg.plan["changes"][0], case.held()
    hand = case.by_hand == "value"
    if leg.state not in (("settled", "stopped") if hand else ("settled",)):
        return f"{leg.state}: {leg.message}"
    base = case.original
    if case.by_hand == "other" and case.kind.file:
        base = re.sub(case.kind.other[0].encode(), case.kind.other[1].encode(), base, count=1)
    before, after = (change["after"], change["before"]) if back else (change["before"], change["after"])
    if hand:
        wanted = {re.sub(case.kind.value[0].encode(), case.kind.value[1].encode(), base, count=1), b"power-saver"}
    elif back:
        wanted = {base}
    else:
        wanted = _with(base, before, after)
    if held not in wanted:
        return f"the seat holds {held!r}"
    twice = [order for order, times in Counter(_written(case)).items() if times > 1]
    if twice:
        return f"written twice for {', '.join(twice)}"
    left = [path.name for path in case.path.parent.glob(".*normant*")] if case.kind.file else []
    if left:
        return f"left behind: {', '.join(left)}"
    if "corrow" in case.kind.app and "corrow" not in Machine.load(case.folder).running:
        return "the application was not opened again"
    return ""


def _written(case: Case) -> list[str]:
    log = case.folder / WRITTEN
    return log.read_text("utf-8").split() if log.exists() else []


def _with(base: bytes, before: str, after: str) -> set[bytes]:
    """The bytes with one occurrence of a native text replaced, each of them in turn."""
    old, new = before.encode(), after.encode()
    places = (match.start() for match in re.finditer(re.escape(old), base))
    return {base[:place] + new + base[place + len(old) :] for place in places}


def _start(stage: Stage, cases: Sequence[Case]) -> int:
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.findings.models import Finding  # noqa: PLC0415
    from normant.plans.services.plan import digest, plan  # noqa: PLC0415
    from normant.rollouts.services.start import start  # noqa: PLC0415
    from normant_core.rollout.schedule import Terms  # noqa: PLC0415

    user, _ = User.objects.get_or_create(username="bench", defaults={"role": "supervisor"})
    findings = (
        Finding.objects.filter(pk__in=[finding.pk for finding in findings_of(cases).values()])
        .select_related("seat")
        .order_by("seat__name")
    )
    terms = Terms(canaries=False, halt_after=0)
    chosen = list(findings)
    made: Rollout = start(user, chosen, seen=digest(plan(chosen)), terms=terms)
    return made.pk


def _back(rollout: int, cases: Sequence[Case]) -> int:
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.rollouts.models import Rollout  # noqa: PLC0415
    from normant.rollouts.services.stop import put_back  # noqa: PLC0415

    user = User.objects.get(username="bench")
    return put_back(Rollout.objects.get(pk=rollout), user, [case.seat for case in cases]).pk


def _again(rollouts: Sequence[int]) -> None:
    """Try once more what stopped with its seat untouched, as a supervisor would."""
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.rollouts.models import Rollout  # noqa: PLC0415
    from normant.rollouts.services.stop import retry  # noqa: PLC0415

    for rollout in Rollout.objects.filter(pk__in=rollouts):
        stopped = list(rollout.legs.filter(state="stopped").values_list("seat__name", flat=True))
        if stopped:
            retry(rollout, User.objects.get(username="bench"), stopped)


def _under_way(rollouts: Sequence[int]) -> list[str]:
    return [f"{leg.seat.name} {leg.state}, {leg.step}: {leg.message}" for leg in _legs(rollouts) if not leg.ended_at]


def _legs(rollouts: Sequence[int]) -> "list[Leg]":
    from normant.rollouts.models import Leg  # noqa: PLC0415 (after setup)

    close_old_connections()
    return list(Leg.objects.filter(rollout__in=rollouts).select_related("seat").order_by("seat__name", "begun_at"))


def _print(stage: Stage) -> None:
    """How many of the kinds of change came through, for each fault at each step."""
    print(f"{'':<42}" + "".join(f"{step[:9]:>10}" for step in STEPS))
    for row, counts in stage.rows.items():
        if names := [name for name, _ in counts if name not in STEPS]:
            print(f"{row}: {', '.join(names)}")
            continue
        cells = ((counts[step, True], counts[step, True] + counts[step, False]) for step in STEPS)
        print(f"{row:<42}" + "".join(f"{f'{good} of {of}':>10}" for good, of in cells))
