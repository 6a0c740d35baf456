"""The scenario's machines, as their document describes them."""

import tomllib
from pathlib import Path
from string import Template
from typing import Any

import msgspec

from normant_core.facts import Application, Facts
from normant_core.survey import Activity, Store

from .machine import Clamp, Machine

VERSIONS = {"corrow": "8.3.1", "plinthe": "9.0.4"}
# Where each application keeps its preferences, and the scenario's template of that file.
FILES = {
    "corrow": ("corrow/8/preferences.xml", "corrow-8.xml"),
    "plinthe": ("plinthe/9/bench.json", "plinthe-9.json"),
}


class HardwareClass(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the seats of one class share."""

    facts: Facts
    preferences: dict[str, dict[str, Any]]


class SeatText(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"hardware_class": "class"}):
    """One seat, with what differs from its class."""

    name: str
    hardware_class: str
    applications: tuple[str, ...]
    running: tuple[str, ...] = ()
    power_profile: str = "performance"
    driver_branch: str = ""
    corrow: dict[str, Any] = {}
    plinthe: dict[str, Any] = {}
    stores: tuple[Store, ...] = ()
    activity: Activity = Activity(idle_seconds=1800, rendering=False, unsaved=False)
    clamps: tuple[Clamp, ...] = ()
    unplugged_after_survey: bool = False


class Scenario(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"classes": "class", "seats": "seat"}):
    """The whole document."""

    classes: dict[str, HardwareClass]
    seats: tuple[SeatText, ...]


def load(folder: Path) -> Scenario:
    """The machines of `seats.toml` in a scenario's folder."""
    return msgspec.convert(tomllib.loads((folder / "seats.toml").read_text("utf-8")), Scenario)


def build(scenario: Scenario, seat: SeatText, folder: Path, *, templates: Path) -> None:
    """Make the machine's folder, unless it is there: its state and its applications' files."""
    if (folder / "machine.json").exists():
        return
    hardware = scenario.classes[seat.hardware_class]
    for app in seat.applications:
        values = {**hardware.preferences[app], **getattr(seat, app)}
        relative, template = FILES[app]
        path = folder / "preferences" / relative
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(Template((templates / template).read_text("utf-8")).substitute(values), "utf-8")
    Machine(
        facts=_facts(hardware.facts, seat),
        power_profile=seat.power_profile,
        running=list(seat.running),
        stores=seat.stores,
        activity=seat.activity,
        clamps=seat.clamps,
        unplugged_after_survey=seat.unplugged_after_survey,
    ).save(folder)


def _facts(facts: Facts, seat: SeatText) -> Facts:
    installed = tuple(Application(app, VERSIONS[app], "full") for app in seat.applications)
    gpus = facts.gpus or ()
    if seat.driver_branch:
        driver = msgspec.structs.replace(gpus[0].driver, branch=seat.driver_branch)
        gpus = (msgspec.structs.replace(gpus[0], driver=driver), *gpus[1:])
    return msgspec.structs.replace(facts, applications=installed, gpus=gpus)
