"""For what a verdict holds: the class, application version and driver branch that it was measured on."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

import msgspec

from ..base.wording import app_title, listed
from ..seat.facts import Facts, Seat

MOST_NAMED = 3  # seats that a sentence names one by one


class HoldsFor(msgspec.Struct, frozen=True):
    """Hardware classes and roles of the seats, and versions of applications and branches of drivers on them, sorted."""

    seats: tuple[str, ...]
    classes: tuple[str, ...]
    roles: tuple[str, ...]
    versions: dict[str, tuple[str, ...]]
    drivers: tuple[str, ...]

    @property
    def place(self) -> str:
        """`On tall offline seats, Corrow 8.3.1`; seats by name where they have no class in common."""
        alike = len(self.classes) == 1 and len(self.roles) == 1
        where = f"{self.classes[0]} {self.roles[0]} seats" if alike else _named(self.seats)
        apps = [f"{app_title(app)} {listed(versions)}" for app, versions in sorted(self.versions.items())]
        return ", ".join([f"On {where}", *apps])


def _named(seats: Sequence[str]) -> str:
    return listed(seats) if len(seats) <= MOST_NAMED else f"{len(seats)} seats"


def holds_for(measured: Iterable[tuple[Seat, Facts]], apps: Collection[str]) -> HoldsFor:
    """What these seats are; of applications only those that the trial is about."""
    rows = list(measured)
    seats, facts = [seat for seat, _ in rows], [machine for _, machine in rows]
    versions = {app: _unlike(_version(machine, app) for machine in facts) for app in apps}
    return HoldsFor(
        _unlike(seat.name for seat in seats),
        _unlike(seat.hardware_class for seat in seats),
        _unlike(seat.role for seat in seats),
        {app: known for app, known in versions.items() if known},
        _unlike(map(drivers_of, facts)),
    )


def _unlike(names: Iterable[str | None]) -> tuple[str, ...]:
    """Those that are known, each once, sorted."""
    return tuple(sorted({*filter(None, names)}))


def _version(facts: Facts, app: str) -> str:
    """Of an application, empty where it is not known."""
    here = facts.application(app)
    return (here and here.version) or ""


def drivers_of(facts: Facts) -> str:
    """`steady 31.4.2`: branch and version of the driver of the first GPU that is enabled; empty where there is none."""
    first = next((gpu for gpu in facts.gpus or () if gpu.enabled is not False and gpu.driver), None)
    if first is None or first.driver is None:
        return ""
    return " ".join(filter(None, (first.driver.branch, first.driver.version)))


def grown_old(held: HoldsFor, now: Mapping[str, Facts]) -> str:
    """What moved since on the seats that were measured: a verdict is old then; empty where it holds."""
    return next((why for seat, facts in sorted(now.items()) for why in _moved(held, seat, facts)), "")


def _moved(held: HoldsFor, seat: str, facts: Facts) -> Iterator[str]:
    for app, versions in held.versions.items():
        if (here := _version(facts, app)) and here not in versions:
            yield f"{app_title(app)} is {here} on {seat} now, not {listed(versions)}"
    if held.drivers and (driver := drivers_of(facts)) and driver not in held.drivers:
        yield f"the driver is {driver} on {seat} now, not {listed(held.drivers)}"
