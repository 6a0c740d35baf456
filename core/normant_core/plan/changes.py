"""The change that settles one finding: by a file's bytes, the system, a package or a template; or why there is none."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import msgspec

from ..base.errors import NormantError
from ..base.quantities import Plain, Value
from ..catalogue.settings import Kind, Setting, catalogue
from ..dialects.dialect import Binding, BoundFile, Dialect
from ..dialects.native import Rounding, settle
from ..judging.judge import Verdict
from ..orders.kinds import InstallDriver
from ..orders.packages import Package, install
from ..seat.facts import Facts
from ..seat.stores import folder_of, is_store
from ..seat.survey import Native
from .errands import needs_a_disk
from .rounder import rounder_size
from .templates import Held, placing

_AT_SYSTEM = {
    "power.profile": "the system's power profile",
    "power.process_priority": "the system's priority of the application",
    "engine.system_preference": "the system's GPU choice for the application",
}


@dataclass(frozen=True, slots=True)
class PlannedChange:
    """One change: native text before and after, the value it stands for, what must be closed.

    `rounder` is the size that people would type in its place, where the norm and the file take it as well.

    With a `volume` the folder's content is moved there as well; with a `template` (its SHA-256) that takes the place of
    the whole file. Without a `file` the system itself holds the value, or a `driver` is installed, after which the
    machine starts again.
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
    template: str = ""
    rounder: Plain = None
    shown_rounder: str = ""


class AtTheSeat(NormantError):
    """What only a person at the seat can do."""


@dataclass(frozen=True, slots=True)
class There:
    """What a seat's last survey told: facts, where readings stand; `dialects` as its application speaks them."""

    facts: Facts
    natives: Mapping[tuple[str, str | None], Native]
    dialects: Sequence[Dialect]

    def native(self, verdict: Verdict) -> Native | None:
        """Where the reading stands."""
        return self.natives.get((verdict.setting, verdict.app))

    def bound(self, verdict: Verdict) -> tuple[BoundFile, Binding] | None:
        """The file of the application's dialect that holds the setting, and its address."""
        return next((bound for dialect in self.dialects if (bound := dialect.bound(verdict.setting))), None)

    def to_close(self, app: str | None, *, where: bool) -> str | None:
        """The application, where it has to be closed and is open as far as anybody knows."""
        runs = any(
            application.id == app and application.running is not False for application in self.facts.applications or ()
        )
        return app if where and runs else None


def change_for(verdict: Verdict, there: There, packages: Iterable[Package], templates: Sequence[Held]) -> PlannedChange:
    """What settles a verdict on a seat. Raises AtTheSeat, or NormantError with the reason, where no order can."""
    if verdict.status != "off-norm":
        raise NormantError("not off norm")
    change = _by_package(verdict, there, packages) if verdict.fix is not None else None
    return change or _by_template(verdict, there, templates) or _by_value(verdict, there)


def _by_package(verdict: Verdict, there: There, packages: Iterable[Package]) -> PlannedChange | None:
    driver = install(packages, there.facts, verdict.setting, str(verdict.fix))
    if driver is None:
        return None
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


def _by_template(verdict: Verdict, there: There, templates: Sequence[Held]) -> PlannedChange | None:
    """The house's own template in the place of the seat's; None where it holds none that settles this."""
    if not templates:
        return None
    native, bound = there.native(verdict), there.bound(verdict)
    placed = placing(templates, verdict, native) if native else None
    if native is None or bound is None or placed is None:
        return None
    setting, (template, reading) = catalogue()[verdict.setting], placed
    return PlannedChange(
        setting=verdict.setting,
        title=setting.title,
        app=verdict.app,
        file=native.file,
        at=f"the template {template.name}, {template.sha256[:12]}",
        line=native.line,
        before=native.raw,
        after=reading.native.raw if reading.native else "",
        value=reading.value,
        shown_before=verdict.reading_shown,
        shown_after=setting.show(setting.parse(reading.value)),
        close=there.to_close(verdict.app, where=bound[0].close_before_write),
        file_name=bound[0].name,
        template=template.sha256,
    )


def _by_value(verdict: Verdict, there: There) -> PlannedChange:
    setting, native = catalogue()[verdict.setting], there.native(verdict)
    _check_settable(verdict, setting)
    if native is None and verdict.setting in _AT_SYSTEM:
        return _of_system(verdict, there)
    if native is None:
        raise NormantError("the survey does not show which file holds this setting")
    file, value, after = _native(verdict, there)
    if file.many:
        raise AtTheSeat("several files hold this setting: change them at the seat")
    rounder = _rounder(verdict, value, there)
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
        close=there.to_close(verdict.app, where=file.close_before_write),
        file_name=file.name,
        volume=_volume(verdict),
        rounder=rounder,
        shown_rounder="" if rounder is None else setting.show(rounder),
    )


def _volume(verdict: Verdict) -> str:
    """The volume that a store is moved to; empty where none is moved."""
    return str(verdict.fix) if verdict.norm.check == "must" and is_store(verdict.setting) else ""


def _check_settable(verdict: Verdict, setting: Setting) -> None:
    """Raises NormantError where no order sets this, AtTheSeat where a person there does."""
    if needs_a_disk(verdict):
        raise AtTheSeat("no suitable volume on this seat: attach one")
    if verdict.fix is None and not setting.empty:
        raise NormantError("a person must choose the value")
    if not setting.remote:
        raise AtTheSeat("needs a person at the seat")


def _rounder(verdict: Verdict, value: Value, there: There) -> int | None:
    """A size that people would rather type; None where there is none, or where the file cannot say exactly that."""
    if catalogue()[verdict.setting].kind is not Kind.BYTES or not isinstance(value, int):
        return None
    size = rounder_size(value, verdict.norm)
    if size is None:
        return None
    try:
        _, holds, _ = _native(msgspec.structs.replace(verdict, fix=size), there)
    except NormantError:  # the application is known to clamp it
        return None
    return size if holds == size else None


def _native(verdict: Verdict, there: There) -> tuple[BoundFile, Value, str]:
    bound = there.bound(verdict)
    if bound is None:
        raise NormantError(f"the {verdict.app} dialect has no binding for {verdict.setting}")
    wanted = catalogue()[verdict.setting].parse(_target(verdict, there.facts))
    after, value = settle(bound[1], wanted, _rounding(verdict), there.facts)
    return bound[0], value, after


def _target(verdict: Verdict, facts: Facts) -> Plain:
    """The value to set; for a path whose fix is a volume, the same folder on that volume."""
    if catalogue()[verdict.setting].kind is not Kind.PATH or verdict.norm.check != "must":
        return verdict.fix
    volume = next((v for v in facts.volumes or () if v.id == verdict.fix), None)
    if volume is None:
        raise NormantError("no suitable volume on this seat")
    return folder_of(verdict.app or "", verdict.setting, volume)


def _rounding(verdict: Verdict) -> Rounding:
    """A file may only hold coarser units: then the value rounds into the norm."""
    if verdict.norm.check == "at_most" or (verdict.distance or 0) > 0:
        return "down"
    return "up" if verdict.norm.check in ("at_least", "between") else "nearest"


def _of_system(verdict: Verdict, there: There) -> PlannedChange:
    setting, wanted = catalogue()[verdict.setting], str(verdict.fix)
    offered = there.facts.system.power_profiles
    if setting.key == "power.profile" and (not offered or wanted not in offered):
        raise NormantError(f"the system offers no power profile {wanted!r}")
    if wanted in setting.never:
        raise NormantError(f"{setting.danger}")
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
        close=there.to_close(verdict.app, where=setting.restart == "app"),
    )
