"""Verdicts and levels of a whole house: each kind of seat is explained once, for every seat of that kind."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np

from ..catalogue.settings import Kind, catalogue
from ..judging.groups import cause_key
from ..judging.judge import Verdict
from ..judging.levels import FLOOR_FAMILIES, Level, badness, level_of, place_of
from ..seat.facts import volume_under
from ..seat.survey import Key
from .marks import NO_NORM, OFF_NORM, status_of
from .verdicts import Case, Standing
from .waivers import Waiver, rows_waived, waiver_of


@dataclass(frozen=True, slots=True)
class SharedVerdict:
    """A verdict that many seats share, as it is and as JSON has it, and the key of its cause."""

    verdict: Verdict
    json: bytes
    cause: str


class Telling:
    """What a standing says of its seats, with what was accepted."""

    def __init__(self, standing: Standing, waivers: Sequence[Waiver]) -> None:
        self.standing = standing
        self._waivers = waivers
        self.waived: Mapping[Key, set[int]] = rows_waived(standing, waivers)
        self._verdicts: dict[tuple[Any, ...], SharedVerdict] = {}
        self._levels: dict[tuple[Any, ...], Level] = {}

    def verdict(self, case: Case, row: int) -> SharedVerdict:
        """How a reading stands, explained."""
        number = case.kinds.tuples.codes[row]
        waiver = self.waiver(case.key, row)
        kind = (case.key, number, self._volume(case, row), waiver.id if waiver else None)
        line = self._verdicts.get(kind)
        if line is None:
            line = self._verdicts[kind] = self._explained(case, row, waiver)
        return line

    def verdicts(self, case: Case, rows: Sequence[int]) -> list[SharedVerdict]:
        """How a reading stands on some seats."""
        codes = case.kinds.tuples.codes
        if catalogue()[case.key[0]].kind is Kind.PATH or case.key in self.waived:
            return [self.verdict(case, row) for row in rows]
        samples = {codes[row]: row for row in rows}
        by_number = {number: self.verdict(case, row) for number, row in samples.items()}
        return [by_number[codes[row]] for row in rows]

    def waiver(self, key: Key, row: int) -> Waiver | None:
        """The waiver that covers a finding."""
        if row not in self.waived.get(key, ()):
            return None
        return waiver_of(self._waivers, self.standing.house.rows[row].seat, key)

    def _volume(self, case: Case, row: int) -> str | None:
        """A path is told with the volume that it is on, which need not be a rule's business."""
        if catalogue()[case.key[0]].kind is not Kind.PATH:
            return None
        column, seat_row = self.standing.house.readings[case.key], self.standing.house.rows[row]
        volume = volume_under(seat_row.mounts, str(column.values[column.codes[row]]))
        return volume.id if volume else None

    def _explained(self, case: Case, row: int, waiver: Waiver | None) -> SharedVerdict:
        verdict = self.standing.judge.explain(self.standing.house.view(row), *case.key)
        assert verdict, "what stands somehow can be explained"
        if waiver:
            verdict = msgspec.structs.replace(verdict, status="waived", reason=waiver.reason)
        return SharedVerdict(verdict, msgspec.json.encode(verdict), cause_key(verdict))

    def levels(self) -> list[list[Level]]:
        """For each seat the level of each family of the floor, and how many readings are off norm in all."""
        by_family = [self._of_family(family) for family in FLOOR_FAMILIES]
        return [list(statuses) for statuses in zip(*by_family, strict=True)]

    def _of_family(self, family: str) -> list[Level]:
        cases = [case for case in self.standing.cases.values() if catalogue()[case.key[0]].family == family]
        cases.sort(key=lambda case: place_of(case.key))
        seats = len(self.standing.house)
        if not cases:
            return [level_of(family, None, 0)] * seats
        scores = np.array([self._scores(case) for case in cases])
        off = (np.array([self._off(case) for case in cases])).sum(axis=0).tolist()
        worst, highest = scores.argmax(axis=0).tolist(), scores.max(axis=0).tolist()
        return [
            self._level(family, cases[worst[row]] if highest[row] >= 0 else None, row, off[row]) for row in range(seats)
        ]

    def _level(self, family: str, case: Case | None, row: int, off: int) -> Level:
        line = self.verdict(case, row) if case else None
        kind = (family, id(line), off)
        level = self._levels.get(kind)
        if level is None:
            level = self._levels[kind] = level_of(family, line.verdict if line else None, off)
        return level

    def _scores(self, case: Case) -> Any:
        """How bad each seat stands; -1 without a norm."""
        table = [
            badness(status_of(mark), case.rule(mark).text.severity, far) if mark != NO_NORM else -1.0
            for mark, far in zip(case.kinds.table, case.kinds.distances, strict=True)
        ]
        codes = np.array(table)[case.kinds.tuples.view()]
        for row in self.waived.get(case.key, ()):
            severity = case.rule(case.mark(row)).text.severity
            codes[row] = badness("waived", severity, case.kinds.distances[case.kinds.tuples.codes[row]])
        return codes

    def _off(self, case: Case) -> Any:
        off = np.array(case.kinds.having(OFF_NORM), dtype=bool)[case.kinds.tuples.view()]
        waived = [*self.waived.get(case.key, ())]
        off[waived] = False
        return off

    def off_norm(self) -> list[int]:
        """For each seat how many readings are off norm and not accepted."""
        counted = np.zeros(len(self.standing.house), dtype=int)
        for case in self.standing.cases.values():
            counted += self._off(case)
        return counted.tolist()


def keys_that_moved(before: Standing | None, after: Standing) -> set[Key]:
    """Settings whose verdicts may say something else: their rules, or the names of their layers, are others."""
    if before is None:
        return {*after.cases}
    return {key for key in {*before.cases, *after.cases} if _verdict_key(before, key) != _verdict_key(after, key)}


def _verdict_key(standing: Standing, key: Key) -> Iterable[object]:
    layers = standing.judge.standard.layers
    return [(rule.text, rule.app, rule.wording, layers[rule.layer]) for rule in standing.judge.rules_of(key)]
