"""Project templates of the house: what their files say, and how that stands on the seats that begin with them."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath

import msgspec

from ..base.errors import FileError
from ..base.quantities import Plain, Value
from ..catalogue.settings import catalogue
from ..dialects.dialect import Binding, BoundFile, Dialect
from ..dialects.preferences import Visit, read_files
from ..judging.judge import Judge, Verdict, View
from ..seat.facts import Application
from ..seat.survey import Key, Native, Reading


class Held(msgspec.Struct, frozen=True):
    """A template that the house holds: `file` is its name, `sha256` that of its bytes; no productions are all."""

    name: str
    app: str
    productions: tuple[str, ...]
    file: str
    sha256: str
    readings: tuple[Reading, ...]


@dataclass(frozen=True, slots=True)
class Stand:
    """How one setting of a template stands: the same verdict on these seats. None: no rule speaks of it there."""

    reading: Reading
    verdict: Verdict | None
    seats: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Own:
    """What a seat's own template says of a setting, and the file that says it."""

    seat: str
    setting: str
    value: Plain
    file: str


@dataclass(frozen=True, slots=True)
class Apart:
    """Seats whose own file of that name says something else; `shown` is what it says."""

    setting: str
    shown: str
    seats: tuple[str, ...]


def read_template(dialect: Dialect, name: str, content: bytes) -> tuple[Reading, ...]:
    """What a template of that dialect's application says. Raises FileError with every fault."""
    spoken = dialect.spoken_by(Application(dialect.app))
    files = [file for file in spoken.file if any(map(_of_project, file.binding))]
    if not files:
        raise FileError(f"the dialect of {dialect.app} says of no file that it is a template: bind project settings")
    visits = [_visit(spoken, file, name, content) for file in files]
    best = min(visits, key=lambda visit: len(visit.errors))
    if best.errors:
        raise FileError("; ".join(error.message for error in best.errors))
    return best.readings


def stands(judge: Judge, app: str, readings: Iterable[Reading], views: Iterable[View]) -> list[Stand]:
    """Every setting of a template on every seat that has the application; the same verdicts together, off norm first.

    The template's values take the place of what the seat's own template says.
    """
    listed, values = list(readings), _values(readings)
    by_stand: dict[tuple[int, str, object], list[str]] = defaultdict(list)
    verdicts: dict[tuple[int, str, object], Verdict | None] = {}
    for view in filter(lambda view: view.facts.application(app), views):
        seen = _with(view, app, values)
        for number, reading in enumerate(listed):
            verdict = judge.explain(seen, reading.setting, app)
            which = (number, verdict.status if verdict else "", verdict and (verdict.norm, verdict.reason))
            verdicts.setdefault(which, verdict)
            by_stand[which].append(view.seat.name)
    made = [Stand(listed[which[0]], verdicts[which], tuple(seats)) for which, seats in by_stand.items()]
    return sorted(made, key=lambda stand: (listed.index(stand.reading), not _is_off(stand), -len(stand.seats)))


def apart(name: str, readings: Iterable[Reading], owns: Iterable[Own]) -> list[Apart]:
    """Where a seat's own file of that name says something else than the house's; the most seats first."""
    values = {setting: value for (setting, _), value in _values(readings).items()}
    seats: dict[tuple[str, str], list[str]] = defaultdict(list)
    for own in owns:
        if own.setting not in values or PurePosixPath(own.file).name != name:
            continue
        setting = catalogue()[own.setting]
        if (value := setting.parse(own.value)) != values[own.setting]:
            seats[own.setting, setting.show(value)].append(own.seat)
    differing = (Apart(setting, shown, tuple(sorted(names))) for (setting, shown), names in seats.items())
    return sorted(differing, key=lambda difference: (-len(difference.seats), difference.setting, difference.shown))


def fitting(held: Iterable[Held], judge: Judge, view: View) -> list[Held]:
    """The templates that a seat begins with, each with those of its readings that are in norm there.

    Of a file's name one for the seat's production goes before one for all.
    """
    begins: dict[tuple[str, str], Held] = {}
    for template in sorted(held, key=lambda template: bool(template.productions)):
        if not template.productions or view.seat.production in template.productions:
            begins[template.app, template.file] = template
    return [
        _in_norm(template, judge, _with(view, template.app, _values(template.readings))) for template in begins.values()
    ]


def _in_norm(held: Held, judge: Judge, seen: View) -> Held:
    explained = [(reading, judge.explain(seen, reading.setting, held.app)) for reading in held.readings]
    right = (reading for reading, verdict in explained if verdict and verdict.status == "in-norm")
    return msgspec.structs.replace(held, readings=tuple(right))


def placing(held: Iterable[Held], verdict: Verdict, native: Native) -> tuple[Held, Reading] | None:
    """The template (as `fitting` gave it) in whose place the file lies that was read, and what it says of the setting.

    None where the house holds none of that name, or one that would not settle this.
    """
    named = PurePosixPath(native.file).name
    for template in held:
        for reading in template.readings:
            if (template.app, template.file, reading.setting) == (verdict.app, named, verdict.setting):
                return template, reading
    return None


def _is_off(stand: Stand) -> bool:
    return stand.verdict is not None and stand.verdict.status == "off-norm"


def _of_project(binding: Binding) -> bool:
    return catalogue()[binding.setting].scope == "project"


def _visit(spoken: Dialect, file: BoundFile, name: str, content: bytes) -> Visit:
    bindings = tuple(filter(_of_project, file.binding))
    alone = msgspec.structs.replace(file, path=name, binding=bindings)
    return read_files(msgspec.structs.replace(spoken, file=(alone,)), {name: content})


def _values(readings: Iterable[Reading]) -> dict[Key, Value]:
    return {(reading.setting, reading.app): catalogue()[reading.setting].parse(reading.value) for reading in readings}


def _with(view: View, app: str, values: Mapping[Key, Value]) -> View:
    """The seat with a template in the place of its own."""
    return View(view.seat, view.facts, {**_without(view, app), **values}, view.errors, view.stores)


def _without(view: View, app: str) -> Mapping[Key, Value]:
    """The seat's readings but those of its own templates of that application."""
    return {key: v for key, v in view.readings.items() if key[1] != app or catalogue()[key[0]].scope != "project"}
