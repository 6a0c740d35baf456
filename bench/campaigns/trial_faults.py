"""The fault campaign of trials: each fault at each step of a run, and afterwards every seat is as it was.

One trial for each seat, which stands at one step of its first run when the fault comes. When that has passed the trial
goes on, is halted, and then the seat has its bytes from before, its application open, and nothing left behind.
"""

import sys
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import cycle
from typing import TYPE_CHECKING

from django.db import close_old_connections

from normant_standin.host import HELD
from normant_standin.machine import Machine

from ..measure import Figure
from .stage import FOLDER, Case, Stage, other_than_at_first, staged

if TYPE_CHECKING:
    from normant.trials.models import Trial

STEPS = ("ordered", "saving", "applying", "reading_back", "measuring", "receipt")
VALUES = {"memory.held_back": "3 GiB", "safety.autosave_every": "7 min", "power.profile": "performance"}
Act = Callable[[Stage], None]


def trial_faults(seats: int) -> list[Figure]:
    """Alone, with a stage of its own."""
    from .faults import FAULTS  # noqa: PLC0415 (which has these among its own)

    with staged(FOLDER) as stage:
        begun = time.monotonic()
        faults = {name: (fault.begin, fault.end, fault.lasts) for name, fault in FAULTS.items()}
        good, cases = trials_under_faults(stage, faults)
        print("\n".join(stage.wrong), file=sys.stderr)
    against = f"of {cases} cases good, in {time.monotonic() - begun:.0f} s"
    bar = "40 distinct cases, all good"
    return [Figure("trial_faults", cases, "", against, good / cases, bar, good == cases >= 40)]


def trials_under_faults(stage: Stage, faults: dict[str, tuple[Act, Act, float]]) -> tuple[int, int]:
    """How many cases were good, of how many."""
    counts = Counter[bool]()
    for name in ("agent killed", "worker killed", "web process killed", "PostgreSQL killed", "all of them killed"):
        counts += _round(stage, name, *faults[name])
    counts += _round(stage, "network cut", *faults["network cut"])
    return counts[True], counts.total()


def _round(stage: Stage, name: str, begin: Act, end: Act, lasts: float) -> Counter[bool]:
    print(f"a trial, {name} ...", file=sys.stderr, flush=True)
    steps = cycle(STEPS)
    cases = [replace(case, step=next(steps)) for case in stage.cases]
    for case in cases:
        case.reset()
        case.set(holds_at=case.step)
    stage.until("every seat was heard again", lambda: other_than_at_first(stage.cases))
    trials = {case.seat: _begun(case) for case in cases}
    stage.until("every seat is at its step", lambda: _elsewhere(cases))
    begin(stage)
    for case in cases:
        case.set(holds_at="")
    time.sleep(lasts)
    end(stage)
    stage.until("every trial goes on", lambda: _standing_still(cases, trials))
    for trial in trials.values():
        _halt(trial)
    stage.until("every seat is put back", lambda: [str(case) for case in cases if _is_set(case)])
    stage.until("every order is over", lambda: _open_orders(trials))
    rows, row = stage.rows.setdefault(f"trial, {name}", Counter()), Counter[bool]()
    for case in cases:
        why = _wrong(case)
        rows[case.step, not why] += 1
        row[not why] += 1
        if why:
            stage.wrong.append(f"trial, {name}, {case}: {why}")
            print(stage.wrong[-1], file=sys.stderr, flush=True)
    return row


def _begun(case: Case) -> "Trial":
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.trials.services.start_trial import Asked, start_trial  # noqa: PLC0415
    from normant_core.measure.conditions import wanted_value  # noqa: PLC0415
    from normant_core.measure.question import Condition, Question  # noqa: PLC0415

    user, _ = User.objects.get_or_create(username="bench", defaults={"role": "supervisor"})
    setting, app = case.kind.setting, case.kind.app or None
    value, another = (wanted_value(setting, app, value) for value in (VALUES[setting], _OTHERS[setting]))
    conditions = (Condition("one", (value,)), Condition("other", (another,)))
    return start_trial(user, Asked(Question("change", "play", conditions), [case.seat], f"under faults, {case}"))


# Both conditions set something: whichever comes first, the seat is changed.
_OTHERS = {"memory.held_back": "5 GiB", "safety.autosave_every": "9 min", "power.profile": "power-saver"}


def _elsewhere(cases: Sequence[Case]) -> list[str]:
    held = {case.seat: case.folder / HELD for case in cases}
    return [
        str(case) for case in cases if not held[case.seat].exists() or held[case.seat].read_text("utf-8") != case.step
    ]


def _standing_still(cases: Sequence[Case], trials: "dict[str, Trial]") -> list[str]:
    """Seats whose trial has not made a run yet."""
    from normant.trials.models import Run, TrialSeat  # noqa: PLC0415 (after setup)

    close_old_connections()
    numbers = [trial.pk for trial in trials.values()]
    made = {*Run.objects.filter(of__trial__in=numbers, figure__isnull=False).values_list("of__seat__name", flat=True)}
    why = dict(TrialSeat.objects.filter(trial__in=numbers).values_list("seat__name", "message"))
    return [f"{case} {why.get(case.seat)}" for case in cases if case.seat not in made]


def _open_orders(trials: "dict[str, Trial]") -> list[str]:
    """Orders of these trials that a seat may still be at: taken back while it carried them out."""
    from normant.orders.models import Order  # noqa: PLC0415 (after setup)

    close_old_connections()
    waiting = Order.objects.waiting().filter(run__of__trial__in=[trial.pk for trial in trials.values()])
    return list(waiting.values_list("seat__name", flat=True))


def _is_set(case: Case) -> bool:
    return (case.folder / "agent" / "trial.json").exists()


def _halt(trial: "Trial") -> None:
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.common.problems import Problem  # noqa: PLC0415
    from normant.trials.services.halt_trial import halt_trial  # noqa: PLC0415

    try:
        halt_trial(trial, User.objects.get(username="bench"), "the fault has passed")
    except Problem:  # it has come to its end by itself
        return


def _wrong(case: Case) -> str:
    """What is not as it was before; empty where all is."""
    deadline = time.monotonic() + 20
    while case.held() != case.original and time.monotonic() < deadline:
        time.sleep(0.2)  # a run that was under way when it was halted ends, and is put back then
    if case.held() != case.original:
        return f"the seat holds {case.held()[:200]!r}"
    left = [path.name for path in case.path.parent.glob(".*normant*")] if case.kind.file else []
    if left:
        return f"left behind: {', '.join(left)}"
    if "corrow" in case.kind.app and "corrow" not in Machine.load(case.folder).running:
        return "the application was not opened again"
    return ""
