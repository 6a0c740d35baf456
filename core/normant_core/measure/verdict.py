"""What a trial's runs show: every condition against every other, told apart or not, and that in a sentence."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

from ..base.wording import counted, listed
from ..orders.kinds import Job
from .estimates import MATTERS, USUAL, Estimate, Outcome, estimate, holm, speed_words
from .question import AS_IT_IS
from .runs import Run, differences


@dataclass(frozen=True, slots=True)
class Compared:
    """How many times as fast `of` is as `against`; 1 with an interval of everything where too few runs say it."""

    of: str
    against: str
    ratio: float
    low: float
    high: float
    outcome: Outcome
    seats: int
    blocks: int


@dataclass(frozen=True, slots=True)
class TrialVerdict:
    """Every comparison, in the order in which conditions were run first, and what to say of them."""

    comparisons: tuple[Compared, ...]
    sentence: str


def conditions_of(runs: Iterable[Run]) -> list[str]:
    """In the order in which they were run first."""
    return list(dict.fromkeys(run.condition for run in runs))


def verdict(job: Job, runs: Sequence[Run], against: str = "", alpha: float = USUAL) -> TrialVerdict:
    """Compares every condition with every earlier one, or all with `against`, by differences within blocks.

    Intervals miss in a share `alpha` of cases, each for itself; whether conditions are told apart is corrected for how
    many pairs are looked at (Holm). A difference below 3 % is none, however sure.
    """
    pairs = _pairs(conditions_of(runs), against)
    estimates = [estimate(differences(job, runs, *pair)) for pair in pairs]
    chances = iter(holm([single.chance for single in estimates if single]))
    compared = tuple(
        _compared(pair, single, next(chances) if single else 1.0, alpha)
        for pair, single in zip(pairs, estimates, strict=True)
    )
    return TrialVerdict(compared, sentence(job, compared))


def _pairs(names: Sequence[str], against: str) -> list[tuple[str, str]]:
    """What is compared with what."""
    if against:
        return [(of, against) for of in names if of != against]
    return [(later, earlier) for earlier, later in combinations(names, 2)]


def _compared(pair: tuple[str, str], single: Estimate | None, chance: float, alpha: float) -> Compared:
    if single is None:
        return Compared(*pair, 1.0, 0.0, float("inf"), "too few runs", 0, 0)
    low, high = single.interval(alpha)
    return Compared(*pair, single.ratio, low, high, outcome(single, chance, alpha), single.seats, single.blocks)


def outcome(single: Estimate, chance: float, alpha: float = USUAL) -> Outcome:
    """What an estimate shows; `chance` is its own, corrected for what else was looked at."""
    if chance > alpha or 1 / MATTERS < single.ratio < MATTERS:
        return "no difference shown"
    return "better" if single.log > 0 else "worse"


def sentence(job: Job, compared: Sequence[Compared]) -> str:
    """`B plays 10 % faster than A (9 to 11 %), 6 blocks on 1 seat.`"""
    clear = [comparison for comparison in compared if comparison.outcome in ("better", "worse")]
    if not compared:
        return "1 condition has no other to compare with."
    if len(compared) == 1:
        return f"{_spoken(job, compared[0])}."
    if not clear:
        return f"No difference shown among {listed(_names(compared))}."
    return f"{'; '.join(_told_apart(job, _faster_first(comparison)) for comparison in clear)}{_rest(compared, clear)}."


def _rest(compared: Sequence[Compared], clear: Sequence[Compared]) -> str:
    """How many pairs are not told apart, and over how many blocks all that is, where it is the same for all."""
    count = len(compared) - len(clear)
    left = f"; no difference shown for {counted(count, 'pair')}" if count else ""
    overs = {_over(comparison) for comparison in compared}
    return f"{left}, {overs.pop()}" if len(overs) == 1 else left


def _faster_first(compared: Compared) -> Compared:
    """The same with the faster of both in front."""
    if compared.ratio >= 1:
        return compared
    low = 1 / compared.high if compared.high else 0.0
    high = 1 / compared.low if compared.low else float("inf")
    of, against = compared.against, compared.of
    return replace(compared, of=of, against=against, ratio=1 / compared.ratio, low=low, high=high, outcome="better")


VERBS: dict[Job, str] = {"decode": "decodes", "disk": "moves data", "render": "renders", "play": "plays"}


def _names(compared: Iterable[Compared]) -> list[str]:
    return list(dict.fromkeys(name for comparison in compared for name in (comparison.against, comparison.of)))


def _spoken(job: Job, compared: Compared) -> str:
    subject = f"{_named(compared.of)} against {_named(compared.against)}"
    if compared.outcome == "too few runs":
        return f"{subject}: too few runs; at least 2 blocks per seat are needed"
    bounds = compared.ratio, compared.low, compared.high
    if compared.outcome == "no difference shown":
        return f"{subject}: no difference shown, {speed_words(*bounds)}, {_over(compared)}"
    return f"{_told_apart(job, compared)}, {_over(compared)}"


def _named(condition: str) -> str:
    return "the current setting" if condition == AS_IT_IS else condition


def _told_apart(job: Job, compared: Compared) -> str:
    faster = speed_words(compared.ratio, compared.low, compared.high, _named(compared.against))
    return f"{_named(compared.of)} {VERBS[job]} {faster}"


def _over(compared: Compared) -> str:
    return f"{counted(compared.blocks, 'block')} on {counted(compared.seats, 'seat')}"
