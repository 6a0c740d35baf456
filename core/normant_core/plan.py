"""The plan of a correction: which bytes change on which seat, in which order, and what has to be closed."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from .catalogue import Kind, catalogue
from .dialect import BoundFile, Dialect, spoken
from .drift import Verdict
from .errands import errand_for, needs_a_disk
from .errors import NormantError
from .facts import Application, Facts
from .native import Rounding, settle
from .norms import Plain
from .orders import InstallDriver
from .packages import Package, install
from .quantities import Value
from .stores import folder_of, is_store
from .survey import Native

_AT_SYSTEM = {
    "power.profile": "the system's power profile",
    "power.process_priority": "the system's priority of the application",
    "engine.system_preference": "the system's GPU choice for the application",
}
# A store moves before its limit is set; the engine before what depends on it.
_ORDER = ("driver", "power", "engine", "memory", "stores", "playback", "delivery")


@dataclass(frozen=True, slots=True)
class PlannedChange:
    """One change: native text before and after, the value it stands for, what must be closed.

    With a `volume` the folder's content is moved there as well; without a `file` the system itself holds the value, or
    a `driver` is installed, after which the machine starts again.
    """

    setting: str
    title: str
    app: str | None
    file: str
    at: str
    line: int | None
    before: str
    after: str
    value: Plain
    shown_before: str
    shown_after: str
    close: str | None
    file_name: str = ""
    volume: str = ""
    driver: InstallDriver | None = None


@dataclass(frozen=True, slots=True)
class Left:
    """A finding that this plan cannot settle, and why; `errand` says what a person at the seat can do."""

    setting: str
    app: str | None
    why: str
    errand: str = ""


class AtTheSeat(NormantError):
    """What only a person at the seat can do."""


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
    """What a house has to settle findings with: how applications keep their preferences, and packages of drivers."""

    dialects: Sequence[Dialect]
    packages: Sequence[Package] = ()


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
    # What each application means is worked out once for all of its settings.
    apps = {verdict.app: facts.application(verdict.app) or Application(verdict.app or "") for verdict in wanted}
    speaks = {app: spoken(means.dialects, [found]) for app, found in apps.items()}
    for verdict in wanted:
        try:
            driver = install(means.packages, facts, verdict.setting, str(verdict.fix)) if _is_off(verdict) else None
            known = speaks[verdict.app]
            changes.append(_driver(verdict, driver) if driver else _change(verdict, facts, natives, known))
        except NormantError as why:
            errand = errand_for(verdict, seat) if isinstance(why, AtTheSeat) else None
            left.append(Left(verdict.setting, verdict.app, str(why), errand.does if errand else ""))
    changes.sort(key=_dependency)
    return SeatPlan(seat, tuple(changes), tuple(left))


def _is_off(verdict: Verdict) -> bool:
    return verdict.status == "off-norm" and verdict.fix is not None


def _driver(verdict: Verdict, driver: InstallDriver) -> PlannedChange:
    return PlannedChange(
        setting=verdict.setting,
        title=catalogue()[verdict.setting].title,
        app=None,
        file="",
        at=f"the driver of {driver.gpu}, by package {driver.package[:12]}",
        line=None,
        before=driver.expected,
        after=driver.version,
        value=driver.version,
        shown_before=verdict.reading_shown,
        shown_after=verdict.fix_shown,
        close=None,
        driver=driver,
    )


def _dependency(change: PlannedChange) -> tuple[int, str, str, bool, str]:
    family = catalogue()[change.setting].family
    place = _ORDER.index(family) if family in _ORDER else len(_ORDER)
    return place, change.app or "", change.file, not change.setting.endswith(".path"), change.setting


def _change(
    verdict: Verdict,
    facts: Facts,
    natives: Mapping[tuple[str, str | None], Native],
    dialects: list[Dialect],
) -> PlannedChange:
    setting = catalogue()[verdict.setting]
    if verdict.status != "off-norm":
        raise NormantError("it is not off norm")
    if needs_a_disk(verdict):
        raise AtTheSeat("no volume of this seat is fit: somebody has to attach one")
    if verdict.fix is None and not setting.empty:
        raise NormantError("a person must decide on the value")
    if not setting.remote:
        raise AtTheSeat("this needs a person at the seat")
    native = natives.get((verdict.setting, verdict.app))
    if native is None and verdict.setting in _AT_SYSTEM:
        return _of_system(verdict, facts)
    if native is None:
        raise NormantError("the survey does not say in which file this stands")
    file, value, after = _native(verdict, facts, dialects)
    if file.many:
        raise AtTheSeat("several files hold it: change them at the seat")
    running = any(app.id == verdict.app and app.running is not False for app in facts.applications or ())
    return PlannedChange(
        setting=verdict.setting,
        title=setting.title,
        app=verdict.app,
        file=native.file,
        at=native.at,
        line=native.line,
        before=native.raw,
        after=after,
        value=setting.plain(value),
        shown_before=verdict.reading_shown,
        shown_after=setting.show(value),
        close=verdict.app if file.close_before_write and running else None,
        file_name=file.name,
        volume=str(verdict.fix) if verdict.norm.check == "must" and is_store(verdict.setting) else "",
    )


def _native(verdict: Verdict, facts: Facts, dialects: list[Dialect]) -> tuple[BoundFile, Value, str]:
    """`dialects` are as the seat's application speaks them."""
    bound = next((found for dialect in dialects if (found := dialect.bound(verdict.setting))), None)
    if bound is None:
        raise NormantError(f"no dialect of {verdict.app} holds {verdict.setting}")
    wanted = catalogue()[verdict.setting].parse(_target(verdict, facts))
    after, value = settle(bound[1], wanted, _rounding(verdict), facts)
    return bound[0], value, after


def _target(verdict: Verdict, facts: Facts) -> Plain:
    """The value to set; for a path whose fix is a volume, the same folder on that volume."""
    if catalogue()[verdict.setting].kind is not Kind.PATH or verdict.norm.check != "must":
        return verdict.fix
    volume = next((v for v in facts.volumes or () if v.id == verdict.fix), None)
    if volume is None:
        raise NormantError("no volume of this seat is fit")
    return folder_of(verdict.app or "", verdict.setting, volume)


def _rounding(verdict: Verdict) -> Rounding:
    """A file may only hold coarser units: then the value rounds into the norm."""
    if verdict.norm.check == "at_most" or (verdict.distance or 0) > 0:
        return "down"
    return "up" if verdict.norm.check in ("at_least", "between") else "nearest"


def _of_system(verdict: Verdict, facts: Facts) -> PlannedChange:
    setting, wanted = catalogue()[verdict.setting], str(verdict.fix)
    offered = facts.system.power_profiles
    if setting.key == "power.profile" and (not offered or wanted not in offered):
        raise NormantError(f"the system offers no power profile {wanted!r}")
    if wanted in setting.never:
        raise NormantError(f"{setting.danger}")
    running = any(app.id == verdict.app and app.running is not False for app in facts.applications or ())
    return PlannedChange(
        setting=verdict.setting,
        title=setting.title,
        app=verdict.app,
        file="",
        at=_AT_SYSTEM[verdict.setting],
        line=None,
        before=str(verdict.reading),
        after=wanted,
        value=wanted,
        shown_before=verdict.reading_shown,
        shown_after=wanted,
        close=verdict.app if setting.restart == "app" and running else None,
    )
