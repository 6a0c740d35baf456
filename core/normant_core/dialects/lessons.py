"""Teach by example: preference files before and after one thing was toggled, and what that says of a dialect."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import msgspec

from ..base.errors import FileError
from ..base.quantities import UNITS, Dimension, Plain, Value
from ..catalogue.settings import TRUTHS, Kind, Setting, ValueFault, catalogue
from ..formats.kinds import read_file, recognised
from ..formats.span import Scalar
from .dialect import Binding

Snapshot = Mapping[str, bytes]
"""An application's preference files by their path under the preference root."""
Address = tuple[str, str]
"""A file's path, and an address in it."""
_NOISE = {
    "window place": re.compile(r"window|geometry|dock|pane|split|scroll|cursor|place$|position|^[xywh]$"),
    "recent files": re.compile(r"recent|history|mru|last(used|open|file|folder|path|project|desk)|lastopened"),
    "counter": re.compile(r"count(er)?$|launches|starts$|runs$|sequence|revision|serial"),
    "time stamp": re.compile(r"time$|stamp|date$|written|saved(at)?$|modified|updated|checked(at)?$|lastseen|epoch"),
}
_MOMENT = re.compile(r"\d{4}-\d\d-\d\d([T ]\d\d:\d\d.*)?")
_EPOCHS = ((10**9, 4 * 10**9), (10**12, 4 * 10**12))  # seconds and milliseconds since 1970, 2001 to 2096
_UNIT_WORDS = {
    "mib": "MiB", "gib": "GiB", "kib": "KiB", "mb": "MB", "gb": "GB", "kb": "kB", "pct": "%", "percent": "%",
    "share": "%", "ms": "ms", "sec": "s", "secs": "s", "seconds": "s", "min": "min", "mins": "min", "minutes": "min",
    "hours": "h", "days": "d",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class ToggledValue:
    """A value that differs between two snapshots; None where it was, or is, not there."""

    file: str
    at: str
    format: str
    before: str | None
    after: str | None


@dataclass(frozen=True, slots=True)
class Noise:
    """A value that differs and says nothing of what was toggled, and why that is believed."""

    file: str
    at: str
    why: str


@dataclass(frozen=True, slots=True)
class SnapshotDifference:
    """What two snapshots differ in: what counts, what is noise, and which files could not be read."""

    changed: tuple[ToggledValue, ...]
    noise: tuple[Noise, ...]
    unread: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Sample:
    """What the file held while the application showed `told` for the setting."""

    native: str | None
    told: str


@dataclass(frozen=True, slots=True)
class Learnt:
    """A binding that explains every sample; `sure` says whether nothing else would, `why` what it rests on."""

    binding: Binding
    sure: bool
    why: str


def difference(before: Snapshot, after: Snapshot, idle: Sequence[Snapshot] = ()) -> SnapshotDifference:
    """Which values differ between two snapshots.

    `idle` are snapshots in which nothing was toggled: what differs among them, or from `before`, is noise.
    """
    unread, formats = dict[str, str](), dict[str, str]()
    values = [dict(_values(snapshot, formats, unread)) for snapshot in (before, after, *idle)]
    first, second, *still = values
    noisy = _noisy(first, second, still)
    changed = [key for key in _differing(first, second) if key not in noisy]
    return SnapshotDifference(
        tuple(_toggled(key, formats[key[0]], first, second) for key in changed),
        tuple(Noise(*key, why) for key, why in noisy.items()),
        tuple(sorted(unread.items())),
    )


def _noisy(
    first: Mapping[Address, Scalar], second: Mapping[Address, Scalar], still: Sequence[Mapping[Address, Scalar]]
) -> dict[Address, str]:
    """Why values that differ are believed to be noise; `still` are snapshots in which nothing was toggled."""
    restless = {key for snapshot in still for key in _differing(first, snapshot)}
    whys = {
        key: "it moves while nothing is toggled" if key in restless else _noise(key[1], first.get(key), second.get(key))
        for key in _differing(first, second)
    }
    return {key: why for key, why in whys.items() if why}


def _toggled(key: Address, form: str, *sides: Mapping[Address, Scalar]) -> ToggledValue:
    before, after = (side[key].raw if key in side else None for side in sides)
    return ToggledValue(*key, form, before, after)


def _differing(first: Mapping[Address, Scalar], two: Mapping[Address, Scalar]) -> list[Address]:
    return [key for key in {**first, **two} if first.get(key) != two.get(key)]


def candidates(changed: ToggledValue, *, most: int = 5) -> list[str]:
    """Settings that the address and the values may be about, the likeliest first."""
    words = _words(changed.at)
    scored = [(_fitness(setting, changed, words), key) for key, setting in catalogue().settings.items()]
    return [key for points, key in sorted(scored, key=lambda pair: (-pair[0], pair[1])) if points > 0][:most]


def learn(setting: str, at: str, samples: Sequence[Sample]) -> Learnt:
    """The binding that explains what the file held for each value that the application showed.

    Raises FileError where nothing that a dialect can say explains all samples.
    """
    known = catalogue()[setting]
    pairs = [(sample.native, _shown(known, sample.told)) for sample in samples if sample.native is not None]
    absent = [_shown(known, sample.told) for sample in samples if sample.native is None]
    meaning = _meaning(known, at, pairs)
    if not absent:
        return meaning
    why = f"{meaning.why}; while the key is absent the application shows {known.show(absent[0])}"
    return Learnt(_with(meaning.binding, missing=known.plain(absent[0])), meaning.sure, why)


def _meaning(known: Setting, at: str, pairs: Sequence[tuple[str, Value]]) -> Learnt:
    """The binding that explains native texts that are there. Raises FileError where none does."""
    if not pairs:
        raise FileError(f"{at}: no sample holds a value")
    if len({native for native, _ in pairs}) < len(set(pairs)):
        raise FileError(f"{at}: the same native text stands for several values, so it is not what holds {known.title}")
    return _words_for(known, at, pairs) if known.dimension in _NAMED else _linear(known, at, pairs)


_NAMED = (Dimension.TEXT, Dimension.BOOLEAN, Dimension.VERSION)


def _values(snapshot: Snapshot, formats: dict[str, str], unread: dict[str, str]) -> Iterator[tuple[Address, Scalar]]:
    for path, raw in snapshot.items():
        try:
            formats[path] = recognised(path, raw)
            for entry in read_file(raw, formats[path]).entries():
                yield (path, entry.at), entry.scalar
        except FileError as why:
            unread[path] = str(why)


def _noise(at: str, was: Scalar | None, now: Scalar | None) -> str:
    """Why a change is believed to be noise; nothing where it is not."""
    raws = [value.raw for value in (was, now) if value]
    if all(map(_MOMENT.fullmatch, raws)) or all(map(_is_epoch, raws)):
        return "time stamp"
    name = re.sub(r"[^a-z0-9]", "", at.rpartition("/")[2].lower())
    why = next((why for why, pattern in _NOISE.items() if _is_called(why, pattern, name, at.lower())), "")
    return "" if why == "counter" and not _counts(was, now) else why


def _is_called(why: str, pattern: re.Pattern[str], name: str, whole: str) -> bool:
    """Whether an address is called like that sort of noise: by its last name, of some sorts by any."""
    return bool(pattern.search(name) or (why in ("window place", "recent files") and pattern.search(whole)))


def _is_epoch(raw: str) -> bool:
    return raw.isdigit() and any(low <= int(raw) < high for low, high in _EPOCHS)


def _counts(was: Scalar | None, now: Scalar | None) -> bool:
    """Whether one follows on the other, as a counter does."""
    if not was or not now or not was.raw.isdigit() or not now.raw.isdigit():
        return False
    return 0 < int(now.raw) - int(was.raw) <= 3


def _words(at: str) -> set[str]:
    """The words of an address, also those grown together: `/Play/SharePct` is play, share, pct."""
    parts = re.findall(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])|\d+", at)
    return {part.lower() for part in parts}


def _fitness(setting: Setting, changed: ToggledValue, words: set[str]) -> float:
    """How likely an address is about a setting: words they share, a unit that fits, values that it knows."""
    raws = [raw for raw in (changed.before, changed.after) if raw is not None]
    if not all(_could_be(setting, raw) for raw in raws):
        return 0
    of_setting = _words(f"{setting.key} {setting.title} {setting.help}".replace(".", " ").replace("_", " "))
    alike = _count_akin(words, of_setting)
    fits = _names_unit_of(setting, words)
    known = {value.lower() for value in setting.values}
    return alike + fits + sum(raw.lower() in known for raw in raws) + _is_folder(setting, raws[-1]) / 2


def _names_unit_of(setting: Setting, words: set[str]) -> bool:
    return any(UNITS[_UNIT_WORDS[word]][0] is setting.dimension for word in words & _UNIT_WORDS.keys())


def _is_folder(setting: Setting, raw: str) -> bool:
    return setting.kind is Kind.PATH and raw.startswith("/")


def _count_akin(words: set[str], others: set[str]) -> int:
    """How many words are like one of the others."""
    return sum(any(_akin(word, other) for other in others) for word in words)


def _akin(word: str, other: str) -> bool:
    return len(word) > 2 and (word == other or (len(word) > 3 and len(other) > 3 and word[:4] == other[:4]))


def _could_be(setting: Setting, raw: str) -> bool:
    number = re.fullmatch(r"-?\d+(\.\d+)?(\s*/\s*\d+)?", raw) is not None
    if setting.kind is Kind.BOOL:
        return raw.lower() in TRUTHS
    if setting.kind is Kind.PATH:
        return bool(re.search(r"[/\\]", raw))
    if setting.dimension in _NAMED:
        return raw.lower() not in ("true", "false")
    return number


def _shown(setting: Setting, shown: str) -> Value:
    """The canonical value of what the application showed. Raises FileError."""
    try:
        return setting.typed(shown)
    except ValueFault as fault:
        raise FileError(str(fault)) from fault


def _words_for(setting: Setting, at: str, pairs: Sequence[tuple[str, Value]]) -> Learnt:
    if all(native == value for native, value in pairs):
        return Learnt(Binding(setting.key, at), len(pairs) > 1, "the file holds the value as it is")
    values = {native: setting.plain(value) for native, value in pairs}
    if setting.kind is Kind.BOOL:
        return _switch(Binding(setting.key, at), values)
    unseen = sorted({*setting.values}.difference(values.values()), key=setting.values.index)
    why = f"{len(values)} words were seen" + (f"; none yet for {', '.join(unseen)}" if unseen else "")
    return Learnt(_with(Binding(setting.key, at), values=values), len(values) > 1 and not unseen, why)


def _switch(binding: Binding, values: dict[str, Plain]) -> Learnt:
    both = len(values) == 2
    if both and all(native.lower() == str(value).lower() for native, value in values.items()):
        return Learnt(binding, True, "the file says true and false as they are meant")
    turned = any(TRUTHS.get(native.lower()) is (not value) for native, value in values.items())
    how = "turned round: the file holds the opposite" if turned else "each word was seen"
    return Learnt(_with(binding, values=values), both, how if both else f"{how}; toggle it once more")


def _linear(setting: Setting, at: str, pairs: Sequence[tuple[str, Value]]) -> Learnt:
    """A unit that makes every native number the value shown, within the rounding of what was shown."""
    numbers = [(number, value) for native, value in pairs if (number := _number(native)) is not None]
    if len(numbers) < len(pairs):
        return _words_for(setting, at, pairs)
    fitting = [unit for unit in _units(setting) if all(_fits(n, v, _factor(unit)) for n, v in numbers)]
    if not fitting:
        raise FileError(f"{at}: no unit of {setting.dimension} makes {_pairs_shown(setting, pairs)}")
    return _best_unit(Binding(setting.key, at), numbers, fitting)


def _best_unit(binding: Binding, numbers: Sequence[tuple[Fraction, Value]], fitting: Sequence[str]) -> Learnt:
    """The unit that fits best of those that fit; sure where two different numbers leave no other."""
    best = min(fitting, key=lambda unit: _misfit(numbers, _factor(unit)))
    others = [unit or "bare numbers" for unit in fitting if _factor(unit) != _factor(best)]
    distinct = len({number for number, _ in numbers if number})
    learnt = _with(binding, unit=best if best != "B" else "")
    return Learnt(learnt, distinct > 1 and not others, _why_unit(best, others, distinct))


def _why_unit(best: str, others: Sequence[str], distinct: int) -> str:
    """`2 different values fit MiB, and MB too: show one more`."""
    why = f"{distinct} different {'value fits' if distinct == 1 else 'values fit'} {best or 'bare numbers'}"
    return f"{why}, and {' and '.join(others)} too: show one more" if others else why


def _units(setting: Setting) -> Iterator[str]:
    if setting.dimension in (Dimension.NUMBER, Dimension.RATE):
        yield ""
    yield from (unit for unit, (dimension, _) in UNITS.items() if dimension is setting.dimension)
    if setting.kind is Kind.FRACTION:
        yield "%"


def _factor(unit: str) -> int | Fraction:
    return UNITS[unit][1] if unit else 1


def _number(native: str) -> Fraction | None:
    try:
        return Fraction(native.strip().replace(" ", ""))
    except (ValueError, ZeroDivisionError):
        return None


def _fits(number: Fraction, value: Value, factor: int | Fraction) -> bool:
    """Within half a per cent: an application shows 6.4 GiB for 6554 MiB."""
    if not isinstance(value, int | Fraction):
        return False
    return abs(number * factor - value) * 200 <= Fraction(value)


def _misfit(numbers: Iterable[tuple[Fraction, Value]], factor: int | Fraction) -> Fraction:
    return sum((abs(n * factor - v) for n, v in numbers if isinstance(v, int | Fraction)), Fraction(0))


def _pairs_shown(setting: Setting, pairs: Sequence[tuple[str, Value]]) -> str:
    return " and ".join(f"{native!r} {setting.show(value)}" for native, value in pairs[:3])


def _with(binding: Binding, **more: Any) -> Binding:
    return msgspec.structs.replace(binding, **more)
