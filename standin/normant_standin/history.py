"""The days before the demo begins: what each seat was like, surveyed then, handed in through the agents' own door."""

import datetime as dt
import tempfile
import time
import tomllib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from normant_agent import identity
from normant_agent.door import Door, enrol
from normant_agent.errors import DoorError
from normant_agent.orders.seal import open_dialects
from normant_agent.preferences.visit import take_survey
from normant_core.dialects.dialect import Dialect
from normant_core.seat.survey import Survey

from .host import StandInHost
from .scenario import Scenario, SeatText, build

T = TypeVar("T")
BEGINS = dt.timedelta(days=30)


class Fills(msgspec.Struct, frozen=True):
    """A store that takes so many bytes of its volume, each time."""

    volume: str
    store: int
    by: int


class Was(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What differed on a seat until an event."""

    power_profile: str | None = None
    driver: dict[str, Any] = {}
    versions: dict[str, str] = {}
    volumes: dict[str, dict[str, Any]] = {}
    corrow: dict[str, Any] = {}
    plinthe: dict[str, Any] = {}
    glaize: dict[str, Any] = {}
    pockle: dict[str, Any] = {}
    tamsel: dict[str, Any] = {}
    fills: Fills | None = None


class Event(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Something that happened on a seat, `times` days in a row."""

    days_ago: float
    seat: str
    was: Was
    times: int = 1


class Document(msgspec.Struct, frozen=True):
    """The whole history."""

    event: tuple[Event, ...]


@dataclass(frozen=True, slots=True)
class Moment:
    """A seat as it was from a moment on."""

    at: dt.datetime
    seat: SeatText


def load(folder: Path) -> list[Event]:
    """The events of `history.toml` in a scenario's folder; none where there is no such file."""
    path = folder / "history.toml"
    if not path.exists():
        return []
    return list(msgspec.convert(tomllib.loads(path.read_text("utf-8")), Document).event)


def moments(scenario: Scenario, events: list[Event], now: dt.datetime) -> list[Moment]:
    """Every seat at its first survey and after each of its events, in the order of time."""
    moments_found = list[Moment]()
    for number, seat in enumerate(scenario.seats):
        here, own = seat, [(_ago(event, day), event.was) for event in events for day in _days(event, seat)]
        for ago, was in sorted(own, key=lambda pair: pair[0]):
            moments_found.append(Moment(now - ago, here))
            here = _before(here, was)
        moments_found.append(Moment(now - BEGINS - dt.timedelta(seconds=37 * number), here))
    return sorted(moments_found, key=lambda moment: moment.at)


@dataclass(frozen=True, slots=True)
class Stage:
    """The server, the codes to enrol with, and where the seats' folders are."""

    server: str
    codes: Mapping[str, str]
    folder: Path

    def doors(self) -> Iterator[tuple[str, Door]]:
        """A door for each seat that was not enrolled yet."""
        for name, code in sorted(self.codes.items()):
            state = self.folder / name / "agent"
            if not (state / "identity.json").exists():
                known = patiently(partial(enrol, self.server, code))
                identity.save(state, known)
                yield name, Door(known)


def patiently(ask: Callable[[], T], *, seconds: float = 60) -> T:
    """What is answered, once the house can: a worker that starts has yet to tell its key and to sign the dialects."""
    deadline = time.monotonic() + seconds
    while True:
        try:
            return ask()
        except DoorError as fault:
            if not fault.passing or time.monotonic() > deadline:
                raise
            time.sleep(0.2)


def dialects_of(door: Door) -> list[Dialect]:
    """The house's dialects, signed. Raises DoorError where there are none yet."""
    opened, unfit = open_dialects(door.dialects(), key=door.key)
    if unfit or not opened:
        raise DoorError(f"the house has signed no dialects yet {unfit or ''}", status=503)
    return opened


def replay(scenario: Scenario, history: list[Moment], stage: Stage, *, templates: Path) -> int:
    """Enrol the seats that are not, and hand in what they were like. The number of surveys handed in."""
    doors = dict(stage.doors())
    dialects, sent = list[Dialect](), 0
    try:
        for moment in history:
            if door := doors.get(moment.seat.name):
                dialects = dialects or patiently(partial(dialects_of, door))
                door.send(survey_at(scenario, moment, dialects, templates=templates))
                sent += 1
    finally:
        for door in doors.values():
            door.close()
    return sent


def survey_at(scenario: Scenario, moment: Moment, dialects: list[Dialect], *, templates: Path) -> Survey:
    """What the agent would have found on that day: a real survey of a machine made for the purpose."""
    with tempfile.TemporaryDirectory() as made:
        as_it_was = msgspec.structs.replace(moment.seat, slow_seconds=0, running=())
        build(scenario, as_it_was, Path(made), templates=templates)
        survey = take_survey(StandInHost(Path(made)), moment.seat.name, dialects)
    return msgspec.structs.replace(survey, taken_at=moment.at)


def _days(event: Event, seat: SeatText) -> Iterator[int]:
    yield from range(event.times) if event.seat == seat.name else ()


def _ago(event: Event, day: int) -> dt.timedelta:
    return dt.timedelta(days=event.days_ago - day)


def _before(seat: SeatText, was: Was) -> SeatText:
    """The seat with what differed: tables entry by entry."""
    changed: dict[str, Any] = {"power_profile": was.power_profile} if was.power_profile else {}
    for name in ("driver", "versions", "corrow", "plinthe", "glaize", "pockle", "tamsel"):
        if patch := getattr(was, name):
            changed[name] = {**getattr(seat, name), **patch}
    if was.volumes:
        changed["volumes"] = {id: {**seat.volumes.get(id, {}), **patch} for id, patch in was.volumes.items()}
    if was.fills:
        changed |= _emptier(seat, was.fills)
    return msgspec.structs.replace(seat, **changed)


def _emptier(seat: SeatText, fills: Fills) -> dict[str, Any]:
    volume, stores = seat.volumes[fills.volume], list(seat.stores)
    store = stores[fills.store]
    stores[fills.store] = msgspec.structs.replace(store, size=(store.size or 0) - fills.by)
    volumes = {**seat.volumes, fills.volume: {**volume, "free": volume["free"] + fills.by}}
    return {"volumes": volumes, "stores": tuple(stores)}
