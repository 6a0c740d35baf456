"""A trial as it goes on: which block a seat runs next, when enough was run, and what that shows.

All of it follows from the question, its seed and the runs that are there, so that whoever asks again, after a crash or
on another machine, gets the same answer.
"""

import math
import zlib
from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import msgspec

from ..base.quantities import Plain
from ..base.wording import counted
from ..orders.kinds import Job
from .design import DesignError, blocks, factorial
from .estimates import MATTERS, of_seat
from .ladder import Rung, next_rung
from .looks import LOOKS, chances, expected_blocks
from .runs import Run, differences
from .screening import Effect, Screened, screen
from .verdict import VERBS, Compared, TrialVerdict, verdict

TrialKind = Literal["change", "choice", "ladder", "screening"]
AS_IT_IS = "as it is"
LEAST_OF = {"change": 2, "choice": 2, "ladder": 3, "screening": 2}
MOST_OF = {"change": 2, "choice": 8, "ladder": 64, "screening": 15}
LONGEST_BY_HAND = 3600  # seconds of a run
EARLY = 0.9  # of a stretch: who stops before that has not played it
SCATTER = 0.03  # of runs that nobody has seen yet


class SetValue(msgspec.Struct, frozen=True, omit_defaults=True):
    """One value that a condition sets; `shown` as people read it, the setting with its title."""

    setting: str
    app: str | None
    value: Plain
    shown: str = ""


class Condition(msgspec.Struct, frozen=True, omit_defaults=True):
    """What is set while a run is made; nothing: as it is. `device` is what decodes or encodes, for jobs of a device."""

    name: str
    sets: tuple[SetValue, ...] = ()
    device: str = ""


class ByHand(msgspec.Struct, frozen=True, omit_defaults=True):
    """What somebody at the seat does in each run: `what` is the clip and its stretch, or what is exported.

    A stretch to be played has so many `frames` at a `rate`; of an export the agent times what comes into the store of
    `app`, where that is named.
    """

    what: str
    frames: int = 0
    rate: float = 0
    app: str = ""


class Question(msgspec.Struct, frozen=True, omit_defaults=True):
    """What a trial asks: in a screening the conditions are its factors, each with the value that it has when high.

    `matters` is the ratio that would make a difference to people; `restarts` whether setting a condition restarts
    something. `by_hand` where people make the runs.
    """

    kind: TrialKind
    job: Job
    conditions: tuple[Condition, ...]
    seed: int = 0
    matters: float = MATTERS
    restarts: bool = False
    by_hand: ByHand | None = None

    @property
    def names(self) -> list[str]:
        """Of its conditions, or of its factors."""
        return [condition.name for condition in self.conditions]


class TrialRun(msgspec.Struct, frozen=True, omit_defaults=True):
    """One run that counts. `harmful`: the machine fetched memory from the disk meanwhile, as it does not at rest."""

    seat: str
    block: int
    condition: str
    value: float
    harmful: bool = False


@dataclass(frozen=True, slots=True)
class TrialState:
    """Where a trial is: whether it is over, the blocks a seat is to have by the next look, and what is shown so far.

    `expected` is how many blocks a seat probably needs; `smallest` the answer of a ladder.
    """

    over: bool
    goal: int
    expected: int
    comparisons: tuple[Compared, ...]
    effects: tuple[Effect, ...]
    smallest: str
    sentence: str


def check_question(question: Question) -> None:
    """Raises DesignError for a question that no runs can answer."""
    least, most = LEAST_OF[question.kind], MOST_OF[question.kind]
    noun = "setting" if question.kind == "screening" else "condition"
    if not least <= len(question.conditions) <= most:
        raise DesignError(f"a {question.kind} has {least} to {most} {noun}s, this one {len(question.conditions)}")
    if twice := next((name for name in question.names if question.names.count(name) > 1), ""):
        raise DesignError(f"the {noun} {twice} stands twice")
    if len({*map(_what, question.conditions)}) < len(question.conditions):
        raise DesignError(f"two {noun}s are the same")
    if question.kind == "screening":
        _check_factors(question)
    if question.by_hand:
        _check_by_hand(question, question.by_hand)


def _check_by_hand(question: Question, by_hand: ByHand) -> None:
    if question.job not in ("play", "render"):
        raise DesignError(f"{question.job} is measured by the agent alone, not by hand")
    if question.job == "play" and not (by_hand.frames > 0 and by_hand.rate > 0):
        raise DesignError("say how many frames the stretch has, and at which rate it is played")


def noted(question: Question, seconds: float, dropped: int) -> float:
    """The figure of a run that somebody has timed: seconds of an export, else the frames per second that were shown.

    Whoever stops a little early played no faster than the stretch is. Raises DesignError for what cannot be.
    """
    if not 0 < seconds < LONGEST_BY_HAND:
        raise DesignError(f"a run of {seconds:g} s is none; expected up to {LONGEST_BY_HAND // 60} min")
    by_hand = question.by_hand
    if question.job == "render" or by_hand is None:
        return seconds
    due = by_hand.frames / by_hand.rate
    if seconds < EARLY * due:
        raise DesignError(f"the stretch lasts {due:.0f} s, and was stopped after {seconds:.0f} s: play all of it")
    if not 0 <= dropped < by_hand.frames:
        raise DesignError(f"of {by_hand.frames:,} frames {dropped:,} cannot have been dropped: nothing would be shown")
    return (by_hand.frames - dropped) / max(seconds, due)


def _check_factors(question: Question) -> None:
    if not all(condition.sets for condition in question.conditions):
        raise DesignError("a setting of a screening has no value to be tried")


def _what(condition: Condition) -> str:
    """What it sets, without how that is shown."""
    return repr((condition.device, *((s.setting, s.app, s.value) for s in condition.sets)))


def high_in(question: Question, condition: str) -> list[str]:
    """The factors that a run of a screening sets, by its name of `+` and `-`."""
    return [name for name, sign in zip(question.names, condition, strict=True) if sign == "+"]


def sets_of(question: Question, condition: str) -> tuple[SetValue, ...]:
    """Everything that is set for a run."""
    if question.kind == "screening":
        high = {*high_in(question, condition)}
        return tuple(wanted for factor in question.conditions if factor.name in high for wanted in factor.sets)
    return next(named.sets for named in question.conditions if named.name == condition)


def is_condition(question: Question, condition: str) -> bool:
    """Whether a run may bear this name: that of a condition, or of a screening its `+` and `-`."""
    if question.kind == "screening":
        return len(condition) == len(question.conditions) and {*condition} <= {"+", "-"}
    return condition in question.names


def next_block(question: Question, runs: Sequence[TrialRun], seat: str, seats: Collection[str]) -> tuple[str, ...]:
    """The conditions of the block that a seat runs next, in their order; none where it has to wait, or is done.

    `runs` are those of complete blocks. Seats that go on (`seats`) meet at every look: none runs ahead of the others.
    """
    place = 1 + max((run.block for run in runs if run.seat == seat), default=0)
    if question.kind == "screening":
        return _screening_block(question, seat, place)
    if question.kind == "ladder":
        return _ladder_block(question, runs, seat, place)
    standing = stand(question, runs, seats)
    if standing.over or place > standing.goal:
        return ()
    order = blocks(question.names, LOOKS[-1], seed=_seed(question, seat), restarting=question.restarts)
    return tuple(order[place - 1])


def _seed(question: Question, seat: str) -> int:
    """Another order on each seat."""
    return zlib.crc32(f"{question.seed}/{seat}".encode())


def _screening_block(question: Question, seat: str, place: int) -> tuple[str, ...]:
    layout = factorial(question.names, seed=_seed(question, seat))
    half = [run for run in layout if run.block == str(place)]
    return tuple("".join("+" if run.levels[name] > 0 else "-" for name in question.names) for run in half)


def _ladder_block(question: Question, runs: Sequence[TrialRun], seat: str, place: int) -> tuple[str, ...]:
    rung = _rung(question, runs)
    if rung.tried is None or rung.best is None:
        return ()
    names = list(dict.fromkeys((question.names[rung.tried], question.names[rung.best])))
    return tuple(blocks(names, 1, seed=_seed(question, f"{seat}/{place}"))[0]) if len(names) > 1 else tuple(names)


def _rung(question: Question, runs: Sequence[TrialRun]) -> Rung:
    names, harmful = question.names, dict[int, bool]()
    for run in runs:
        place = names.index(run.condition)
        harmful[place] = harmful.get(place, False) or run.harmful
    best = max((place for place, harms in harmful.items() if not harms), default=0)
    return next_rung(len(names), _against_best(question, runs, best), harmful)


def _against_best(question: Question, runs: Sequence[TrialRun], best: int) -> dict[int, list[float]]:
    """By the number of each other value, how much faster it was than the best, block by block on all seats."""
    made, names = _counted_runs(runs), question.names
    by_seat = {
        place: differences(question.job, made, name, names[best]).values()
        for place, name in enumerate(names)
        if place != best
    }
    return {place: [difference for some in seats for difference in some] for place, seats in by_seat.items()}


def _counted_runs(runs: Iterable[TrialRun]) -> list[Run]:
    return [Run(run.seat, str(run.block), run.condition, run.value) for run in runs]


def stand(question: Question, runs: Sequence[TrialRun], seats: Collection[str]) -> TrialState:
    """What the runs of complete blocks show; `seats` are those that go on, or went on to the end."""
    if question.kind == "screening":
        return _screened(question, runs, seats)
    if question.kind == "ladder":
        return _climbed(question, runs)
    return _looked(question, runs, seats)


def _looked(question: Question, runs: Sequence[TrialRun], seats: Collection[str]) -> TrialState:
    """Compared at every look that all seats have reached, each at what it may spend."""
    names, by_seat = question.names, _blocks_of(runs)
    reached = min((by_seat.get(seat, 0) for seat in seats), default=max(by_seat.values(), default=0))
    shown = TrialVerdict((), "")
    for look, chance in zip(LOOKS, chances(), strict=True):
        if look > reached:
            return _as_standing(question, runs, shown, goal=look, over=False)
        made = sorted((run for run in runs if run.block <= look), key=lambda run: names.index(run.condition))
        shown = verdict(question.job, _counted_runs(made), alpha=chance)
        if all(_is_decided(compared, question.matters) for compared in shown.comparisons):
            return _as_standing(question, runs, shown, goal=look, over=True)
    return _as_standing(question, runs, shown, goal=LOOKS[-1], over=True)


def _blocks_of(runs: Iterable[TrialRun]) -> dict[str, int]:
    by_seat = defaultdict[str, int](int)
    for run in runs:
        by_seat[run.seat] = max(by_seat[run.seat], run.block)
    return by_seat


def _is_decided(compared: Compared, matters: float) -> bool:
    """Whether a difference is shown, or that there is none which would matter."""
    return compared.outcome in ("better", "worse") or (compared.low > 1 / matters and compared.high < matters)


def _as_standing(
    question: Question, runs: Sequence[TrialRun], shown: TrialVerdict, *, goal: int, over: bool
) -> TrialState:
    expected = expected_blocks(scatter_of(question.job, runs), question.matters)
    sentence = shown.sentence
    if over and any(compared.outcome == "no difference shown" for compared in shown.comparisons):
        sentence = f"{sentence[:-1]}{_left_open(shown.comparisons, question.matters, expected)}."
    return TrialState(over, goal, expected, shown.comparisons, (), "", sentence)


def _left_open(comparisons: Iterable[Compared], matters: float, expected: int) -> str:
    """What it would take to show what was not shown."""
    open_pairs = [c for c in comparisons if c.outcome == "no difference shown" and not _is_decided(c, matters)]
    if not open_pairs:
        return f": none of {(matters - 1):.0%} or more"
    return f"; {counted(expected, 'block')} or more would be needed for {(matters - 1):.0%}"


def scatter_of(job: Job, runs: Sequence[TrialRun]) -> float:
    """How far runs of one condition scatter around their block, as logarithms; what is usual where nothing is known."""
    made, names = _counted_runs(runs), list(dict.fromkeys(run.condition for run in runs))
    variances = [variance for of in names[1:] for variance in _variances(job, made, of, names[0])]
    return math.sqrt(sum(variances) / len(variances)) if variances else SCATTER


def _variances(job: Job, runs: Sequence[Run], of: str, against: str) -> Iterator[float]:
    """Of single runs, by seat: the difference of two has twice as much."""
    for some in differences(job, runs, of, against).values():
        if len(some) > 1:
            single = of_seat(some)
            yield single.error**2 * single.blocks / 2


def _screened(question: Question, runs: Sequence[TrialRun], seats: Collection[str]) -> TrialState:
    layout = factorial(question.names)
    halves = len({run.block for run in layout})
    by_seat = _blocks_of(runs)
    over = bool(runs) and all(by_seat.get(seat, 0) >= halves for seat in seats)
    if len(runs) <= len(question.names) + halves:
        return TrialState(over, halves, halves, (), (), "", "too few runs to say anything" if over else "")
    made = [Screened(f"{run.seat}/{run.block}", factor_columns(question, run.condition), run.value) for run in runs]
    shown = screen(question.job, made)
    return TrialState(over, halves, halves, (), shown.effects, "", _what_matters(question.job, shown.effects))


def _what_matters(job: Job, effects: Sequence[Effect]) -> str:
    """`Effects: hadrel plays 2.49 times as fast (2.42 to 2.56); of six other settings no difference is shown.`"""
    clear = [effect for effect in effects if effect.outcome in ("better", "worse")]
    clear.sort(key=lambda effect: -abs(math.log(effect.ratio or 1)))
    parts = [f"{e.factor} {VERBS[job]} {e.ratio:.2f} times as fast ({e.low:.2f} to {e.high:.2f})" for e in clear]
    if rest := len(effects) - len(clear):
        parts.append(f"of {counted(rest, 'other setting' if clear else 'setting')} no difference is shown")
    return f"{'; '.join(parts)}."


def factor_columns(question: Question, condition: str) -> Mapping[str, int]:
    """The level of each factor in a run of a screening, by its name of `+` and `-`."""
    return {name: 1 if sign == "+" else -1 for name, sign in zip(question.names, condition, strict=True)}


def _climbed(question: Question, runs: Sequence[TrialRun]) -> TrialState:
    rung = _rung(question, runs)
    over = rung.tried is None
    if not over:
        return TrialState(False, max(_blocks_of(runs).values(), default=0) + 1, 0, (), (), "", "")
    if rung.smallest is None:
        return TrialState(
            True, 0, 0, (), (), "", "Even the first value does harm: the machine fetches memory from the disk."
        )
    name = question.names[rung.smallest]
    return TrialState(True, 0, 0, (), (), name, f"{name} is the smallest that is as good as any, within 3 %.")
