"""A trial as it goes on: which block a seat runs next, when enough was run, and what that shows.

All of it follows from the question, its seed and the runs that are there, so that whoever asks again, after a crash or
on another machine, gets the same answer.
"""

import math
import zlib
from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass

import msgspec

from ..base.wording import counted
from ..orders.kinds import Job
from .design import blocks, factorial
from .estimates import of_seat, speed_words
from .ladder import Rung, is_good, next_rung
from .looks import LOOKS, chances, expected_blocks
from .question import Question, beside_words, factor_columns
from .runs import Run, differences
from .screening import Effect, Screened, screen
from .verdict import VERBS, Compared, TrialVerdict, verdict

SCATTER = 0.03  # of runs that nobody has seen yet
PAGES_IN = "makes the machine swap memory from disk"


class TrialRun(msgspec.Struct, frozen=True, omit_defaults=True):
    """One run that counts. `harmful`: the machine fetched memory from the disk meanwhile, as it does not at rest.

    `beside` is the figure of another application's job that was run after it; 0 where none was.
    """

    seat: str
    block: int
    condition: str
    value: float
    harmful: bool = False
    beside: float = 0


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
    names, harmful = question.names, {**_paging(question, runs), **_slowing(question, runs)}
    best = max((place for place, harms in harmful.items() if not harms), default=0)
    blocks = _against(question.job, names, _counted_runs(runs), best)
    return next_rung(len(names), blocks, harmful, beside=question.beside is not None)


def _paging(question: Question, runs: Sequence[TrialRun]) -> dict[int, bool]:
    """Whether a value made the machine fetch memory from the disk; one whose job beside it is still to be weighed is
    known only where it did."""
    harmful = dict[int, bool]()
    for run in runs:
        place = question.names.index(run.condition)
        harmful[place] = harmful.get(place, False) or run.harmful
    return harmful if question.beside is None else {place: True for place, harms in harmful.items() if harms}


def _slowing(question: Question, runs: Sequence[TrialRun]) -> dict[int, bool]:
    """Whether a value makes another application's job slower than the first value does, as far as that is known."""
    if question.beside is None or not runs:
        return {}
    others = [Run(run.seat, str(run.block), run.condition, run.beside) for run in runs if run.beside]
    shown = {place: is_good(diff) for place, diff in _against(question.beside.job, question.names, others, 0).items()}
    if question.names[0] in {run.condition for run in runs}:
        shown[0] = True
    paging = _paging(question, runs)
    return {place: not good for place, good in shown.items() if good is not None and place not in paging}


def _against(job: Job, names: Sequence[str], runs: Sequence[Run], best: int) -> dict[int, list[float]]:
    """By the number of each other value, how much faster it was than the best, block by block on all seats."""
    by_seat = {
        place: differences(job, runs, name, names[best]).values() for place, name in enumerate(names) if place != best
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
        return f": any difference is below {(matters - 1):.0%}"
    return f"; {counted(expected, 'block')} or more are needed to show {(matters - 1):.0%}"


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
        return TrialState(over, halves, halves, (), (), "", "too few runs" if over else "")
    made = [Screened(f"{run.seat}/{run.block}", factor_columns(question, run.condition), run.value) for run in runs]
    shown = screen(question.job, made)
    return TrialState(over, halves, halves, (), shown.effects, "", _what_matters(question.job, shown.effects))


def _what_matters(job: Job, effects: Sequence[Effect]) -> str:
    """`Effects: hadrel plays 2.49 times as fast (2.42 to 2.56); no difference shown for 6 other settings.`"""
    clear = [effect for effect in effects if effect.outcome in ("better", "worse")]
    clear.sort(key=lambda effect: -abs(math.log(effect.ratio or 1)))
    parts = [f"{e.factor} {VERBS[job]} {speed_words(e.ratio or 1, e.low or 0, e.high or math.inf)}" for e in clear]
    if rest := len(effects) - len(clear):
        parts.append(f"no difference shown for {counted(rest, 'other setting' if clear else 'setting')}")
    return f"{'; '.join(parts)}."


def _climbed(question: Question, runs: Sequence[TrialRun]) -> TrialState:
    rung = _rung(question, runs)
    over = rung.tried is None
    if not over:
        return TrialState(False, max(_blocks_of(runs).values(), default=0) + 1, 0, (), (), "", "")
    if rung.smallest is None:
        return TrialState(True, 0, 0, (), (), "", f"Even the first value has a side effect: it {PAGES_IN}.")
    name = question.names[rung.smallest]
    sentence = f"{name} is the smallest value that is as fast as any, within 3 %{_where_it_harms(question, runs)}."
    return TrialState(True, 0, 0, (), (), name, sentence)


def _where_it_harms(question: Question, runs: Sequence[TrialRun]) -> str:
    """From which value on it does harm, and to what; empty where none of those tried did."""
    paging = _paging(question, runs)
    slowing = {place for place, harms in _slowing(question, runs).items() if harms}
    least = min(slowing | {place for place, harms in paging.items() if harms}, default=None)
    if least is None:
        return ""
    why = f"slows {beside_words(question.beside)}" if least in slowing and question.beside else PAGES_IN
    return f"; from {question.names[least]} on it {why}"
