"""Which of several settings matter: main effects of a two-level factorial by least squares on logarithms of runs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..base.errors import DocumentError, Fault
from ..base.wording import listed
from .comparison import Outcome
from .estimates import Estimate, holm
from .runs import LIMIT_RUNS, Job, check_columns, number_fault, speed
from .verdict import outcome

Matrix = npt.NDArray[np.float64]
LIMIT_FACTORS = 63
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
    factors = list(runs[0].levels) if runs else []
    values = np.array([speed(job, run.value) for run in runs])
    nuisance = _blocks(runs)
    columns = np.array([[run.levels[factor] for factor in factors] for run in runs], dtype=float)
    aliases = _aliases(factors, columns, nuisance)
    free = [factor for factor in factors if factor not in aliases]
    estimates = _least_squares(values, columns[:, [factors.index(factor) for factor in free]], nuisance)
    chances = holm([single.chance for single in estimates])
    known = {
        factor: _effect(factor, single, chance)
        for factor, single, chance in zip(free, estimates, chances, strict=bool(estimates))
    }
    effects = tuple(
        Effect(factor, None, None, None, "aliased", aliases[factor])
        if factor in aliases
        else known.get(factor, Effect(factor, None, None, None, "too few runs"))
        for factor in factors
    )
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


def _effect(factor: str, single: Estimate, chance: float) -> Effect:
    return Effect(factor, single.ratio, *single.interval(), outcome(single, chance))


def _sentence(effects: Sequence[Effect]) -> str:
    """`B matters: 1.30 times as fast when high (1.29 to 1.31). Of A, C and D no difference is shown.`"""
    said = [
        f"{e.factor} matters: {e.ratio:.2f} times as fast when high ({e.low:.2f} to {e.high:.2f})."
        for e in effects
        if e.outcome in ("better", "worse")
    ]
    if unsure := [effect.factor for effect in effects if effect.outcome == "no difference shown"]:
        said.append(f"Of {listed(unsure)} no difference is shown.")
    if short := [effect.factor for effect in effects if effect.outcome == "too few runs"]:
        said.append(f"Of {listed(short)} there are too few runs to say anything.")
    said += [f"{e.factor} cannot be told from {listed(e.aliased)}." for e in effects if e.outcome == "aliased"]
    return " ".join(said)


def read_screening(table: Sequence[Sequence[str]], source: str = "") -> list[Screened]:
    """The runs of a table with a column for each factor (-1 or 1), `value`, and `block` where there are any.

    Raises DocumentError with the line of every fault.
    """
    filled = [(n, [cell.strip() for cell in row]) for n, row in enumerate(table, 1) if any(map(str.strip, row))]
    names = filled[0][1] if filled else []
    check_columns([names], list(dict.fromkeys([*filter(None, names), "value"])), source)
    factors = [name for name in names if name not in RESERVED]
    faults = list(_shape_faults(factors, len(filled) - 1, "block" in names))
    if not faults:
        faults = [fault for number, row in filled[1:] for fault in _row_faults(number, row, names)]
    if faults:
        raise DocumentError(source, faults)
    cells = [dict(zip(names, row, strict=True)) for _, row in filled[1:]]
    return [
        Screened(row.get("block", ""), {factor: int(row[factor]) for factor in factors}, float(row["value"]))
        for row in cells
    ]


def _shape_faults(factors: Sequence[str], runs: int, blocked: bool) -> list[Fault]:
    if not factors:
        return [Fault("there is no factor", line=1, expected="a column of -1 and 1 for each setting")]
    if len(factors) > LIMIT_FACTORS or runs > LIMIT_RUNS:
        message = f"there are {len(factors):,} factors and {runs:,} runs"
        return [Fault(message, expected=f"at most {LIMIT_FACTORS} and {LIMIT_RUNS:,}")]
    if runs <= len(factors):
        message = f"{runs} runs cannot tell {len(factors)} factors apart"
        more = ", and one more for each block" if blocked else ""
        return [Fault(message, expected=f"at least {len(factors) + 1}{more}")]
    return []


def _row_faults(line: int, row: Sequence[str], names: Sequence[str]) -> list[Fault]:
    if len(row) != len(names):
        expected = f"{len(names)}, as many as the first row"
        return [Fault(f"the row has {len(row)} cells", line=line, expected=expected)]
    faults = list[Fault]()
    for column, (name, cell) in enumerate(zip(names, row, strict=True), 1):
        if name == "value" and (why := number_fault(cell)):
            faults.append(Fault(why, line=line, column=column, expected="a number above 0, and below infinity"))
        elif name not in RESERVED and not _is_level(cell):
            faults.append(Fault(f"{cell[:40]!r} is no level of {name}", line=line, column=column, expected="-1 or 1"))
    return faults


def _is_level(text: str) -> bool:
    return text in ("-1", "1", "+1")


def _level(text: str) -> int:
    return int(text)
