"""Trials that are simulated, whose truth is known: how often they err, and how soon they decide."""

import math
from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from normant_core.measure.design import factorial
from normant_core.measure.estimates import holm, of_seat, pooled
from normant_core.measure.ladder import MOST, next_rung
from normant_core.measure.looks import LOOKS, chances
from normant_core.measure.screening import Screened, screen
from normant_core.measure.verdict import outcome

from ..measure import Figure

Logs = npt.NDArray[np.float64]
Noise = Callable[[np.random.Generator, float, tuple[int, ...]], Logs]
SCATTERS = (0.02, 0.05, 0.10)
DRIFT = 0.10  # over the whole trial
TRUE = math.log(1.10)
WRONG, SURE_FIVE, SURE_TEN, BLOCKS = 0.05, 0.95, 0.60, 12
LOWEST, HIGHEST = 0.94, 0.965  # how often an interval of 95 % is to hold the truth
NAMED, FALSE = 0.90, 0.10
LADDER, HALF = 0.95, 0.5


def trials(count: int = 10_000) -> list[Figure]:
    """What the design of trials promises, counted in that many simulated ones of each kind."""
    draw = np.random.default_rng(11)
    return [
        *_alike(draw, count),
        *_different(draw, count),
        _choice(draw, count),
        *_screenings(draw, count),
        *_intervals(draw, count),
        *_ladders(draw, count // 5),
    ]


def _normal(draw: np.random.Generator, scatter: float, shape: tuple[int, ...]) -> Logs:
    return draw.standard_normal(shape) * scatter


def _heavy(draw: np.random.Generator, scatter: float, shape: tuple[int, ...]) -> Logs:
    """Student's with four degrees of freedom, as wide as the others."""
    return draw.standard_t(4, shape) * scatter / math.sqrt(2)


def _decided(runs: Logs) -> tuple[bool, int]:
    """Whether a trial shows a difference of two conditions, and after how many blocks; looks at their moments.

    `runs` are differences within blocks, in the order of the blocks.
    """
    for look, chance in zip(LOOKS, chances(), strict=True):
        single = of_seat(runs[:look].tolist())
        if outcome(single, single.chance, chance) != "no difference shown":
            return True, look
    return False, LOOKS[-1]


def _trials(  # noqa: PLR0913 (what a trial is made of)
    draw: np.random.Generator, count: int, scatter: float, noise: Noise, *, truth: float = 0, drift: float = 0
) -> Logs:
    """Differences within the blocks of `count` trials; orders are drawn, and the machine drifts from run to run."""
    runs = noise(draw, scatter, (count, LOOKS[-1], 2))
    first = draw.integers(0, 2, (count, LOOKS[-1]))  # which of the two is run first
    step = math.log1p(drift) / (2 * LOOKS[-1])
    return runs[..., 1] - runs[..., 0] + truth + np.where(first == 0, step, -step)


def _alike(draw: np.random.Generator, count: int) -> list[Figure]:
    """Trials of a condition against itself."""
    cases = [
        *((f"{scatter:.0%}", _trials(draw, count, scatter, _normal)) for scatter in SCATTERS),
        ("5 %, drift", _trials(draw, count, 0.05, _normal, drift=DRIFT)),
        ("5 %, heavy tails", _trials(draw, count, 0.05, _heavy)),
    ]
    return [
        _share("a/a", sum(_decided(runs)[0] for runs in made) / count, WRONG, f"of {count:,} wrong; scatter {name}")
        for name, made in cases
    ]


def _different(draw: np.random.Generator, count: int) -> list[Figure]:
    made = list[Figure]()
    for scatter, least in ((0.05, SURE_FIVE), (0.10, SURE_TEN)):
        ended = [_decided(runs) for runs in _trials(draw, count, scatter, _normal, truth=TRUE)]
        share, needed = (float(np.mean(column)) for column in zip(*ended, strict=True))
        note = f"found, {needed:.1f} blocks; true 10 %, scatter {scatter:.0%}"
        made.append(_least("found", share, least, note, also=needed <= BLOCKS or scatter > 0.05))
    return made


def _choice(draw: np.random.Generator, count: int) -> Figure:
    """Five equal conditions, all pairs, looks included."""
    wrong = 0
    for runs in _normal(draw, 0.05, (count, LOOKS[-1], 5)):
        wrong += any(_any_pair(runs[:look], chance) for look, chance in zip(LOOKS, chances(), strict=True))
    return _share("choice", wrong / count, WRONG, f"of {count:,} name a pair of five equal ones")


def _any_pair(runs: Logs, chance: float) -> bool:
    singles = [of_seat((runs[:, b] - runs[:, a]).tolist()) for a in range(5) for b in range(a + 1, 5)]
    adjusted = holm([single.chance for single in singles])
    return any(outcome(s, p, chance) != "no difference shown" for s, p in zip(singles, adjusted, strict=True))


def _screenings(draw: np.random.Generator, count: int) -> list[Figure]:
    """Seven factors, two of which make 10 %, at 3 % of scatter."""
    names = [f"f{number}" for number in range(7)]
    layout = factorial(names)
    levels = np.array([[run.levels[name] for name in names] for run in layout])
    both = false = held = 0
    for _ in range(count // 4):
        matters = draw.choice(7, 2, replace=False)
        truth = np.zeros(7)
        truth[matters] = TRUE
        logs = levels @ truth / 2 + _normal(draw, 0.03, (len(layout),))
        made = [Screened(r.block, r.levels, math.exp(v)) for r, v in zip(layout, logs.tolist(), strict=True)]
        effects = screen("play", made).effects
        named = {place for place, effect in enumerate(effects) if effect.outcome in ("better", "worse")}
        both += named >= set(matters.tolist())
        false += bool(named - set(matters.tolist()))
        bounds = [(effect.low or 0, effect.high or 0) for effect in effects]
        held += sum(low <= math.exp(true) <= high for (low, high), true in zip(bounds, truth, strict=True))
    total = count // 4
    return [
        _least("screened", both / total, NAMED, f"of {total:,} name both of two true effects"),
        _share("screened", false / total, FALSE, f"of {total:,} name a false one"),
        _within("screening", held / total / 7, "of effects within their interval"),
    ]


def _intervals(draw: np.random.Generator, count: int) -> list[Figure]:
    """How often plain intervals hold the truth, of one seat and of several that differ in truth."""
    single = [of_seat(runs[:6].tolist()).interval() for runs in _trials(draw, count, 0.05, _normal, truth=TRUE)]
    several = list[tuple[float, float]]()
    for _ in range(count):
        seats = TRUE + _normal(draw, 0.04, (6,))
        runs = _normal(draw, 0.05 * math.sqrt(2), (6, 12)) + seats[:, None]
        several.append(pooled([of_seat(seat) for seat in runs.tolist()]).interval())
    return [
        _within(name, float(np.mean([low <= math.exp(TRUE) <= high for low, high in made])), note)
        for name, made, note in (("one seat", single, "of intervals"), ("six seats", several, "of intervals"))
    ]


def _ladders(draw: np.random.Generator, count: int) -> list[Figure]:
    near, shares = 0, list[float]()
    for _ in range(count):
        steps = int(draw.integers(8, 17))
        knee, slope, harmful_from = int(draw.integers(steps)), draw.uniform(0.05, 0.4), steps
        if draw.random() < 0.3:
            harmful_from = int(draw.integers(1, steps + 1))
        speeds = -slope * np.maximum(0, knee - np.arange(steps))
        smallest, runs = _climbed(draw, speeds, harmful_from)
        good = np.flatnonzero(speeds[:harmful_from] >= speeds[harmful_from - 1] - math.log(1.03))
        near += smallest is not None and abs(smallest - int(good[0])) <= 1
        shares.append(runs / (steps * MOST))
    mean = float(np.mean(shares))
    return [
        _least("ladder", near / count, LADDER, f"of {count:,} within a step of the smallest good value, scatter 3 %"),
        _share("ladder", mean, HALF, "of the runs that trying all would take, on average"),
    ]


def _climbed(draw: np.random.Generator, speeds: Logs, harmful_from: int) -> tuple[int | None, int]:
    blocks, harmful, runs = dict[int, list[float]](), dict[int, bool](), 0
    while (rung := next_rung(len(speeds), blocks, harmful)).tried is not None and rung.best is not None:
        harmful[rung.tried] = rung.tried >= harmful_from
        if rung.tried == rung.best:
            runs += 1
            continue
        noise = _normal(draw, 0.03, (2,))
        blocks.setdefault(rung.tried, []).append(float(speeds[rung.tried] - speeds[rung.best] + noise[0] - noise[1]))
        runs += 2
    return rung.smallest, runs


def _share(name: str, share: float, most: float, note: str) -> Figure:
    return Figure(name, 100 * share, "%", note, share / most, f"at most {most:.0%}", share <= most)


def _least(name: str, share: float, least: float, note: str, *, also: bool = True) -> Figure:
    return Figure(name, 100 * share, "%", note, share / least, f"at least {least:.0%}", share >= least and also)


def _within(name: str, share: float, note: str) -> Figure:
    bar = f"{LOWEST:.1%} to {HIGHEST:.1%}"
    return Figure(name, 100 * share, "%", note, share / 0.95, bar, LOWEST <= share <= HIGHEST)
