"""Levels: the state of a family on a seat, as one gauge can show it."""

from collections.abc import Iterable
from functools import lru_cache
from typing import Literal

import msgspec

from ..base.wording import counted
from ..catalogue.settings import catalogue
from ..seat.survey import Key
from .judge import Status, Verdict
from .norms import FARTHEST

FLOOR_FAMILIES = ("engine", "memory", "stores", "power", "driver")
LITTLE = 0.07  # octaves: one twentieth more or less
_SEVERITY = {"must": 3, "should": 2, "advise": 1}
_STATUS = {"off-norm": 3, "unread": 2, "waived": 1}


class Level(msgspec.Struct, frozen=True):
    """What a gauge shows; `distance` in octaves, None without direction; `words` is its spoken text."""

    family: str
    status: Status | Literal["no-norm"]
    severity: str
    distance: float | None
    count: int
    words: str


def levels(verdicts: Iterable[Verdict]) -> list[Level]:
    """One level for each family of the floor; the worst verdict speaks for its family."""
    by_family: dict[str, list[Verdict]] = {family: [] for family in FLOOR_FAMILIES}
    for verdict in sorted(verdicts, key=lambda v: place_of(v.key)):
        by_family.get(catalogue()[verdict.setting].family, []).append(verdict)
    return [_level(family, verdicts) for family, verdicts in by_family.items()]


@lru_cache(maxsize=4096)
def place_of(key: Key) -> tuple[int, str]:
    """Where a setting stands in the catalogue, and its application: of two that are as bad the first speaks."""
    return list(catalogue().settings).index(key[0]), key[1] or ""


def _level(family: str, verdicts: list[Verdict]) -> Level:
    worst = max(verdicts, key=badness_of, default=None)
    return level_of(family, worst, sum(verdict.status == "off-norm" for verdict in verdicts))


def level_of(family: str, worst: Verdict | None, off: int) -> Level:
    """The level of a family whose worst verdict is this, with that many off norm; None: no rule speaks of it."""
    title = catalogue().families[family]
    if worst is None:
        return Level(family, "no-norm", "", None, 0, f"{title}: no rule applies")
    distance = worst.distance if worst.status == "off-norm" else None
    if worst.status == "in-norm":
        return Level(family, "in-norm", "", None, 0, f"{title}: in norm")
    more = f", and {off - 1} more" if off > 1 else ""
    return Level(family, worst.status, worst.severity, distance, off, f"{title}: {in_words(worst)}{more}")


def badness_of(verdict: Verdict) -> float:
    """The larger the worse."""
    return badness(verdict.status, verdict.severity, verdict.distance)


def badness(status: str, severity: str, distance: float | None) -> float:
    """By status, then by severity, then by distance, which is 16 at most."""
    return 1000 * _STATUS.get(status, 0) + 100 * _SEVERITY[severity] + abs(distance or 0)


def in_words(verdict: Verdict) -> str:
    """`Held back is 1.5 GiB, house wants at least 6.4 GiB, 4.3 times too small`."""
    setting = catalogue()[verdict.setting]
    if verdict.status == "unread":
        return f"{setting.title} is unread: {verdict.reason}"
    there = verdict.norm.there or f"is {verdict.reading_shown}"
    words = f"{setting.title} {there}{';' if ',' in there else ','} house standard: {verdict.norm.sentence}"
    if verdict.status == "waived":
        return f"{words}; waived: {verdict.reason}"
    return words + (f", {times(verdict)}" if verdict.status == "off-norm" and verdict.distance else "")


def times(verdict: Verdict) -> str:
    """How far off, in words."""
    if verdict.distance is None:
        return ""
    far, more = abs(verdict.distance), verdict.distance > 0
    kind = catalogue()[verdict.setting].kind
    if kind == "version":
        return f"{counted(round(far), 'release')} {'ahead' if more else 'behind'}"
    if kind == "int":
        return f"{far:g} too {'many' if more else 'few'}"
    return f"{_times(far)} too {'large' if more else 'small'}"


def _times(octaves: float) -> str:
    if octaves >= FARTHEST:
        return "far"
    return f"{2**octaves:.1f} times" if octaves >= LITTLE else "a little"
