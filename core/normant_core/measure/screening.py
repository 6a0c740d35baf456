"""Which of several settings matter: main effects of a two-level factorial by least squares on logarithms of runs."""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..base.errors import DocumentError, Fault
from ..base.tables import check_columns, filled_rows, number_fault
from ..base.wording import listed, opening
from ..orders.kinds import Job
from .estimates import Estimate, Outcome, holm, speed_words
from .runs import speed
from .verdict import outcome

Matrix = npt.NDArray[np.float64]
LIMIT_FACTORS, LIMIT_SCREENED, LIMIT_BLOCKS = 31, 4096, 64  # the work grows with all three
RESERVED = ("value", "block")


@dataclass(frozen=True, slots=True)
class Screened:
    """One run: its block (empty without), the level (-1 or 1) of each factor, and its figure."""

    block: str
    levels: Mapping[str, int]
    value: float


@dataclass(frozen=True, slots=True)
class Effect:
    """How many times as fast runs are at a factor's high level as at its low one; None where nothing can be said.

    `aliased` names what this factor cannot be told from.
    """

    factor: str
    ratio: float | None
    low: float | None
    high: float | None
    outcome: Outcome | Literal["aliased"]
    aliased: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Screening:
    """Every effect, in the order of the columns, and what to say of them."""

    effects: tuple[Effect, ...]
    sentence: str


def screen(job: Job, runs: Sequence[Screened]) -> Screening:
    """Main effects, with a difference of its own for each block; intervals of 95 % from what is left over.

    Factors whose columns follow from others are told as aliased; whether the rest matter is corrected for how many
    there are (Holm). Of a design that leaves nothing over no interval can be had: too few runs.
    """
    factors = list(runs[0].levels)
    values = np.array([speed(job, run.value) for run in runs])
    columns = np.array([list(run.levels.values()) for run in runs], dtype=float)
    nuisance = _blocks(runs)
    aliases = _aliases(factors, columns, nuisance)
    free = [place for place, factor in enumerate(factors) if factor not in aliases]
    estimates = _least_squares(values, columns[:, free], nuisance)
    chances = holm([single.chance for single in estimates])
    known = {factors[place]: each for place, each in zip(free, zip(estimates, chances, strict=True), strict=False)}
    effects = tuple(_effect(factor, known.get(factor), aliases.get(factor, ())) for factor in factors)
    return Screening(effects, _sentence(effects))


def _blocks(runs: Sequence[Screened]) -> Matrix:
    """The mean, and a column for each block but the first."""
    names = list(dict.fromkeys(run.block for run in runs))
    return np.array([[1.0, *(float(run.block == name) for name in names[1:])] for run in runs])


def _aliases(factors: Sequence[str], columns: Matrix, nuisance: Matrix) -> dict[str, tuple[str, ...]]:
    """Each factor that follows from others and the blocks, with those: dropping it alone leaves the rank as it is."""
    whole = np.column_stack([nuisance, columns])
    rank, aliases = np.linalg.matrix_rank(whole), dict[str, tuple[str, ...]]()
    for place, factor in enumerate(factors):
        others = np.delete(whole, nuisance.shape[1] + place, axis=1)
        if np.linalg.matrix_rank(others) == rank:
            shares, *_ = np.linalg.lstsq(others, columns[:, place], rcond=None)
            own = shares[nuisance.shape[1] :]
            rest = [name for name in factors if name != factor]
            aliases[factor] = tuple(n for n, s in zip(rest, own, strict=True) if abs(s) > 1e-9) or ("the blocks",)
    return aliases


def _least_squares(values: Matrix, columns: Matrix, nuisance: Matrix) -> list[Estimate]:
    """The effects of columns of full rank, from low to high; none where nothing is left over to judge them by."""
    whole = np.column_stack([nuisance, columns])
    freedom = len(values) - whole.shape[1]
    if freedom < 1 or not columns.shape[1]:
        return []
    inverse = np.linalg.inv(whole.T @ whole)
    shares = inverse @ whole.T @ values
    left = values - whole @ shares
    errors = np.sqrt(np.diag(inverse) * (left @ left) / freedom)
    places = range(nuisance.shape[1], whole.shape[1])
    return [Estimate(2 * float(shares[p]), 2 * float(errors[p]), freedom, 1, len(values)) for p in places]


def _effect(factor: str, known: tuple[Estimate, float] | None, aliased: tuple[str, ...]) -> Effect:
    """An effect by its estimate and its corrected chance; without one it is aliased, or rests on too little."""
    if known is None:
        return Effect(factor, None, None, None, "aliased" if aliased else "too few runs", aliased)
    single, chance = known
    return Effect(factor, single.ratio, *single.interval(), outcome(single, chance))


def _sentence(effects: Sequence[Effect]) -> str:
    """`B matters: 30 % faster (29 to 31 %) at its high level. No difference shown: A, C and D.`"""
    by_outcome = defaultdict[str, list[Effect]](list)
    for effect in effects:
        by_outcome[effect.outcome].append(effect)
    parts = [
        f"{e.factor} matters: {speed_words(e.ratio or 1, e.low or 0, e.high or math.inf)} at its high level."
        for e in [*by_outcome["better"], *by_outcome["worse"]]
    ]
    for name, words in _UNSURE.items():
        if by_outcome[name]:
            parts.append(f"{opening(words)}: {listed(effect.factor for effect in by_outcome[name])}.")
    parts += [f"{effect.factor} cannot be separated from {listed(effect.aliased)}." for effect in by_outcome["aliased"]]
    return " ".join(parts)


_UNSURE = {
    "no difference shown": "no difference shown",
    "too few runs": "too few runs",
}


def read_screening(table: Sequence[Sequence[str]], source: str = "") -> list[Screened]:
    """The runs of a table with a column for each factor (-1 or 1), `value`, and `block` where there are any.

    Raises DocumentError with the line of every fault.
    """
    names, rows = filled_rows(table)
    check_columns(names, list(dict.fromkeys([*filter(None, names), "value"])), source)
    factors = [name for name in names if name not in RESERVED]
    if faults := _shape_faults(factors, len(rows)):
        raise DocumentError(source, faults)
    if faults := [fault for line, row in rows.items() for fault in _row_faults(line, row, names)]:
        raise DocumentError(source, faults)
    made = [_screened(dict(zip(names, row, strict=True)), factors) for row in rows.values()]
    if len({run.block for run in made}) > LIMIT_BLOCKS:
        raise DocumentError(source, [Fault("there are too many blocks", expected=f"at most {LIMIT_BLOCKS}")])
    return made


def _screened(row: Mapping[str, str], factors: Sequence[str]) -> Screened:
    return Screened(row.get("block", ""), {factor: int(row[factor]) for factor in factors}, float(row["value"]))


def _shape_faults(factors: Sequence[str], runs: int) -> list[Fault]:
    if not factors:
        return [Fault("there is no factor", line=1, expected="a column of -1 and 1 for each setting")]
    if len(factors) > LIMIT_FACTORS or runs > LIMIT_SCREENED:
        message = f"there are {len(factors):,} factors and {runs:,} runs"
        return [Fault(message, expected=f"at most {LIMIT_FACTORS} and {LIMIT_SCREENED:,}")]
    if runs <= len(factors):
        message = f"{runs} runs cannot tell {len(factors)} factors apart"
        return [Fault(message, expected=f"at least {len(factors) + 1}, and one more for each block after the first")]
    return []


def _row_faults(line: int, row: Sequence[str], names: Sequence[str]) -> Iterator[Fault]:
    if len(row) != len(names):
        yield Fault(f"the row has {len(row)} cells", line=line, expected=f"{len(names)}, as many as the first row")
        return
    for column, (name, cell) in enumerate(zip(names, row, strict=True), 1):
        message, expected = _cell_fault(name, cell)
        if message:
            yield Fault(message, line=line, column=column, expected=expected)


def _cell_fault(name: str, cell: str) -> tuple[str, str]:
    """What is wrong with a cell, and what was expected; empty where nothing is."""
    if name == "value":
        return number_fault(cell)
    if name == "block" or cell in ("-1", "1", "+1"):
        return "", ""
    return f"{cell[:40]!r} is no level of {name}", "-1 or 1"
