"""The plan of a correction: which bytes change on which seat, in which order, and what has to be closed."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import msgspec

from ..base.errors import NormantError
from ..catalogue.settings import catalogue
from ..dialects.dialect import Dialect, spoken
from ..judging.judge import Verdict
from ..orders.packages import Package
from ..seat.facts import Application, Facts
from ..seat.survey import Native
from .changes import AtTheSeat, PlannedChange, There, change_for
from .errands import errand_for
from .templates import Held

# A store moves before its limit is set; the engine before what depends on it.
_ORDER = ("driver", "power", "engine", "memory", "stores", "playback", "delivery")


@dataclass(frozen=True, slots=True)
class Left:
    """A finding that this plan cannot settle, and why; `errand` says what a person at the seat can do."""

    setting: str
    app: str | None
    why: str
    errand: str = ""


@dataclass(frozen=True, slots=True)
class SeatPlan:
    """What happens on one seat; `closes` are the applications to close, each once."""

    seat: str
    changes: tuple[PlannedChange, ...]
    left: tuple[Left, ...]

    @property
    def restarts(self) -> bool:
        """Whether the machine has to start again, once."""
        return any(change.driver for change in self.changes)

    @property
    def closes(self) -> tuple[str, ...]:
        """Applications that must be closed, in order of first need."""
        return tuple(dict.fromkeys(change.close for change in self.changes if change.close))


@dataclass(frozen=True, slots=True)
class Means:
    """What a house has to settle findings with: dialects, packages of drivers, templates that fit the seat.

    `rounder`: a size that was worked out gives way to a rounder one within its norm.
    """

    dialects: Sequence[Dialect]
    packages: Sequence[Package] = ()
    templates: Sequence[Held] = ()
    rounder: bool = False


def _there(app: str | None, facts: Facts, natives: Mapping[tuple[str, str | None], Native], means: Means) -> There:
    """What an application of this version means by its files, worked out once for all of its settings."""
    application = facts.application(app) or Application(app or "")
    return There(facts, natives, spoken(means.dialects, [application]))


def plan_seat(
    seat: str,
    verdicts: Iterable[Verdict],
    *,
    facts: Facts,
    natives: Mapping[tuple[str, str | None], Native],
    means: Means,
) -> SeatPlan:
    """The changes that settle these verdicts on one seat, sorted by dependency."""
    changes, left, wanted = list[PlannedChange](), list[Left](), list(verdicts)
    there = {app: _there(app, facts, natives, means) for app in {verdict.app for verdict in wanted}}
    for verdict in wanted:
        try:
            changes.append(_change(verdict, there[verdict.app], means))
        except AtTheSeat as why:
            errand = errand_for(verdict, seat)
            left.append(Left(verdict.setting, verdict.app, str(why), errand.does if errand else ""))
        except NormantError as why:
            left.append(Left(verdict.setting, verdict.app, str(why), ""))
    changes.sort(key=_dependency)
    return SeatPlan(seat, tuple(changes), tuple(left))


def _change(verdict: Verdict, there: There, means: Means) -> PlannedChange:
    change = change_for(verdict, there, means.packages, means.templates)
    if not means.rounder or change.rounder is None:
        return change
    rounded = msgspec.structs.replace(verdict, fix=change.rounder)
    return change_for(rounded, there, means.packages, means.templates)


def _dependency(change: PlannedChange) -> tuple[int, str, str, bool, str]:
    family = catalogue()[change.setting].family
    place = _ORDER.index(family) if family in _ORDER else len(_ORDER)
    return place, change.app or "", change.file, not change.setting.endswith(".path"), change.setting
