"""How a whole house stands: each rule judged once for each distinct tuple of its inputs.

The same as judging seat by seat. A table says how the seats of one number in a `Tuples` stand; of another edition only
the tables of changed rules are made, of a seat that changed only the numbers that its changed inputs are part of.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..base.quantities import Value
from ..judging.inputs import OfReading
from ..judging.judge import Judge, Outcome, View
from ..seat.survey import Key
from ..standard.rule import Layer, Rule, RuleText
from .columns import House, Move, Tuples
from .marks import NO_NORM, OFF_NORM, has_status, mark_of, place_of, status_of

Marks = npt.NDArray[np.int16]
Identity = tuple[tuple[RuleText, str | None, str, str], ...]


Far = Callable[[int], float | None]


class Kinds:
    """How the seats that are alike in one setting stand: a mark for each number of `tuples`."""

    __slots__ = ("_counted", "_distances", "_far", "_judged", "_table", "identity", "tuples")

    def __init__(self, identity: Identity, tuples: Tuples, judged: Callable[[int], int], far: Far) -> None:
        self.identity, self.tuples, self._judged, self._far = identity, tuples, judged, far
        self._table: list[int] = []
        self._distances: list[float | None] = []
        self._counted: tuple[int, int] = (-1, 0)

    @property
    def table(self) -> list[int]:
        """The mark of each number; kinds of seats that nobody judged yet are judged now."""
        table, sample = self._table, self.tuples.sample
        if len(table) < len(sample):
            table += [self._judged(row) if row >= 0 else NO_NORM for row in sample[len(table) :]]
        return table

    @property
    def distances(self) -> list[float | None]:
        """For each number how far its seats are off norm; None without direction, and for what is not off norm."""
        known, sample = self._distances, self.tuples.sample
        for number in range(len(known), len(self.table)):
            off = has_status(self.table[number], OFF_NORM) and sample[number] >= 0
            known.append(self._far(sample[number]) if off else None)
        return known

    def marks(self) -> Marks:
        """The mark of each seat, in the order of the house."""
        return np.array(self.table, dtype=np.int16)[self.tuples.view()]

    def having(self, status: int) -> list[bool]:
        """For each number whether its seats have this status."""
        return [has_status(mark, status) for mark in self.table]

    def off(self) -> int:
        """How many seats are off norm."""
        if self._counted[0] != self.tuples.moves:
            off = int(np.count_nonzero(np.array(self.having(OFF_NORM), dtype=bool)[self.tuples.view()]))
            self._counted = (self.tuples.moves, off)
        return self._counted[1]


@dataclass(frozen=True, slots=True, eq=False)
class Case:
    """One setting of one application in the house: its rules, the strongest first, and how each kind of seat stands."""

    key: Key
    rules: tuple[Rule, ...]
    kinds: Kinds

    def rule(self, mark: int) -> Rule:
        """The rule that made the norm."""
        return self.rules[place_of(mark)]

    def mark(self, row: int) -> int:
        """How one seat stands."""
        return self.kinds.table[self.kinds.tuples.codes[row]]

    def outcome(self, mark: int) -> Outcome | None:
        """As a judge says it."""
        if mark == NO_NORM:
            return None
        return Outcome(*self.key, status_of(mark), self.rule(mark).number)


@dataclass(frozen=True, slots=True)
class AlikeSeats:
    """Seats (rows of the house) that stand alike in one setting, with the place of the rule for each."""

    case: Case
    rows: list[int]
    marks: list[int]

    def pairs(self) -> Iterator[tuple[int, int]]:
        """Each row with its mark."""
        return zip(self.rows, self.marks, strict=True)


class Standing:
    """A house under one edition; `before` lends what it found out about rules that did not change."""

    def __init__(self, house: House, judge: Judge, before: "Standing | None" = None) -> None:
        self.house, self.judge, self.keys = house, judge, house.keys()
        known: dict[Key, Case] = before.cases if before and before.house is house else {}
        self.cases: dict[Key, Case] = {key: self._case(key, known.get(key)) for key in self._keys()}
        self._by_tuples: dict[int, list[Case]] = {}
        for case in self.cases.values():
            self._by_tuples.setdefault(id(case.kinds.tuples), []).append(case)

    def _keys(self) -> list[Key]:
        keys = dict.fromkeys([*self.keys, *self.judge.named])
        return [key for key in keys if self.judge.rules_of(key)]

    def _case(self, key: Key, known: Case | None) -> Case:
        rules, layers = self.judge.rules_of(key), self.judge.standard.layers
        identity = tuple(_identity(rule, layers) for rule in rules)
        if known and known.kinds.identity == identity and not self.house.is_worn(known.kinds.tuples):
            return Case(key, rules, known.kinds)
        inputs = self.judge.inputs(key)
        reads = tuple(of.key for of in inputs if isinstance(of, OfReading))
        places = {rule.number: place for place, rule in enumerate(rules)}
        house, judge = self.house, self.judge

        def judged(row: int) -> int:
            return _mark(judge.stand(house.view(row, reads), key), places)

        def far(row: int) -> float | None:
            return judge.distance(house.view(row, reads), key)

        case = Case(key, rules, Kinds(identity, house.tuples(inputs), judged, far))
        assert len(case.kinds.table) == len(case.kinds.tuples)  # judged now: a kind may be left by all its seats
        return case

    def with_status(self, status: int = OFF_NORM) -> Iterator[AlikeSeats]:
        """Every reading of that status, case by case; those without any are left out."""
        for case in self.cases.values():
            having = case.kinds.having(status)
            if any(having):
                codes = case.kinds.tuples.view()
                rows = np.flatnonzero(np.array(having)[codes])
                if len(rows):
                    yield AlikeSeats(case, rows.tolist(), np.array(case.kinds.table)[codes[rows]].tolist())

    def outcomes(self, row: int) -> list[Outcome]:
        """How one seat stands."""
        outcomes = (case.outcome(case.mark(row)) for case in self.cases.values())
        return [outcome for outcome in outcomes if outcome]

    def put(self, row: int, readings: Mapping[Key, Value]) -> list[tuple[Case, int, int]]:
        """Other readings of a seat: the cases that stand otherwise by now, with the mark before and after."""
        return self._moved(self.house.put(row, readings))

    def replace(self, row: int, view: View) -> list[tuple[Case, int, int]]:
        """A seat as it is by now, whole. A setting that nobody had before makes a new standing necessary."""
        return self._moved(self.house.replace(row, view))

    def _moved(self, moves: Sequence[Move]) -> list[tuple[Case, int, int]]:
        moved = list[tuple[Case, int, int]]()
        for tuples, before, after in moves:
            for case in self._by_tuples.get(id(tuples), ()):
                table = case.kinds.table
                if table[before] != table[after]:
                    moved.append((case, table[before], table[after]))
        return moved


def _identity(rule: Rule, layers: tuple[Layer, ...]) -> tuple[RuleText, str | None, str, str]:
    """What an outcome follows from: rules that are written alike, in words that mean the same, judge alike."""
    layer = layers[rule.layer]
    return rule.text, rule.app, layer.condition.text if layer.condition else "", layer.wording + rule.wording


def _mark(outcome: Outcome | None, places: Mapping[int, int]) -> int:
    if outcome is None:
        return NO_NORM
    return mark_of(places[outcome.rule], outcome.status)
