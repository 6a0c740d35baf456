"""Ready to deliver? Every preview setting that was lowered, beside the guard that keeps it out of what is exported."""

from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction

import msgspec

from ...base.quantities import Value
from ...base.wording import app_title, counted, opening
from ...catalogue.settings import catalogue
from ...seat.survey import Key

# A setting that lowers what is seen, when it does, and the guard that keeps exports whole all the same.
_GUARDED: tuple[tuple[str, Callable[[Value], bool], str], ...] = (
    ("playback.raw_scale", lambda value: isinstance(value, int | float | Fraction) and value < 1, "delivery.full_raw"),
    ("playback.resize_filter", lambda value: value == "fast", "delivery.full_resize"),
    ("playback.proxies", lambda value: value == "prefer", "delivery.originals"),
)
_ERRORS = "delivery.ignore_errors"


class Guard(msgspec.Struct, frozen=True):
    """One lowered setting of an application: whether it stays out of exports (None: nobody has read that), in words."""

    app: str | None
    setting: str
    holds: bool | None
    sentence: str


class Readiness(msgspec.Struct, frozen=True):
    """Whether a seat may deliver (None: not known), in a sentence, and every guard."""

    ready: bool | None
    sentence: str
    guards: tuple[Guard, ...]


def readiness(readings: Mapping[Key, Value]) -> Readiness:
    """By the canonical readings of a seat. A guard that was not read does not hold, as far as anybody knows."""
    guards = (*_lowered(readings), *_ignoring(readings))
    failing, unknown = (sum(guard.holds is holds for guard in guards) for holds in (False, None))
    if failing:
        sentence = f"No: {counted(failing, 'setting affects', 'settings affect')} the export."
    elif unknown:
        sentence = f"Unknown: {counted(unknown, 'setting')} not read."
    else:
        sentence = "Yes: no preview setting affects the export."
    return Readiness(False if failing else None if unknown else True, sentence, guards)


def _lowered(readings: Mapping[Key, Value]) -> Iterator[Guard]:
    for lowered, is_low, guard in _GUARDED:
        for (setting, app), value in sorted(readings.items(), key=repr):
            if setting == lowered and is_low(value):
                yield _guard(readings, (setting, app), guard)


def _guard(readings: Mapping[Key, Value], key: Key, guard: str) -> Guard:
    setting, holds = catalogue()[key[0]], readings.get((guard, key[1]))
    here = f"{_of(key[1])}{setting.title} is {setting.show(readings[key])}"
    title = catalogue()[guard].title
    if holds is None:
        return Guard(key[1], key[0], None, f"{here}, and {title} is unknown.")
    words = f"and {title} is on" if holds else f"and {title} is off: exports are lowered as well"
    return Guard(key[1], key[0], bool(holds), f"{here}, {words}.")


def _ignoring(readings: Mapping[Key, Value]) -> Iterator[Guard]:
    for (setting, app), value in sorted(readings.items(), key=repr):
        if setting == _ERRORS and value is True:
            title = f"{_of(app)}{catalogue()[setting].title}"
            yield Guard(app, setting, False, f"{title} is on: damaged frames are exported.")


def _of(app: str | None) -> str:
    return f"{opening(app_title(app))}: " if app else ""
