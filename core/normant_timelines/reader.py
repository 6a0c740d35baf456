"""Timelines in OpenTimelineIO, as what has to be decoded and drawn when."""

import re
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

import msgspec
import opentimelineio as otio

from normant_core.measure.machine.timeline import Placed, Work

from .errors import TimelineError

LIMIT_BYTES = 128 << 20
LIMIT_NESTED = 64  # stacks and tracks within one another
LIMIT_CLIPS = 100_000
_NTSC = 1001
_INNER = "content.otio"  # in a bundle


@dataclass(slots=True)
class Read:
    """A timeline: its rate, how long it is, what is placed, and what could not be, with its track and time."""

    rate: Fraction
    end: Fraction = Fraction(0)
    placed: list[Placed] = field(default_factory=list)
    left: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Span:
    """Where an item stands, in seconds of the timeline: where it begins, and from when to when it is seen.

    `pace` is how many of its own seconds pass in one of the timeline, by what it lies in.
    """

    origin: Fraction
    start: Fraction
    end: Fraction
    pace: Fraction
    track: str

    def within(self, at: Fraction, start: Fraction, end: Fraction) -> "Span | None":
        """Of an item in this one that begins at `at`; None where nothing of it is seen."""
        start, end = max(self.start, start), min(self.end, end)
        return Span(at, start, end, self.pace, self.track) if start < end else None


class TimelineReader:
    """Walks a timeline. `codecs` are those of media by their target; without any, what is decoded is called by its
    target."""

    def __init__(self, codecs: Mapping[str, str] | None = None) -> None:
        self._codecs = codecs

    def read(self, path: Path) -> Read:
        """Raises TimelineError for a file that is no timeline."""
        timeline = _timeline(path)
        tracks = [track for track in timeline.tracks if isinstance(track, otio.schema.Track)]
        video = [track for track in tracks if track.kind == otio.schema.TrackKind.Video]
        made = Read(_rate_of(timeline))
        for number, track in enumerate(video, 1):
            name = track.name or f"V{number}"
            if not track.enabled:
                continue
            cut = _seconds(track.source_range.duration) if track.source_range else _FAR
            whole = Span(Fraction(0), Fraction(0), cut, Fraction(1), name)
            made.end = max(made.end, self._track(track, whole, made, 0))
        return made

    def _track(self, track: otio.schema.Track, span: Span, made: Read, depth: int) -> Fraction:
        """Places what stands on a track one after the other; returns where the last of it ends."""
        items, at = list(track), _content_begins(track, span)
        for place, item in enumerate(items):
            if isinstance(item, otio.schema.Transition):
                continue
            length = self._length(item, at, span, made)
            before, behind = (overlap / span.pace for overlap in _overlaps(items, place))
            if length and (inner := span.within(at, at - before, at + length + behind)):
                self._item(item, inner, made, depth)
            at += length
        return min(span.end, at)

    def _stack(self, stack: otio.schema.Stack, span: Span, made: Read, depth: int) -> None:
        """Places what lies over one another: each from the stack's own beginning, as long as it is itself."""
        at = _content_begins(stack, span)
        for item in stack:
            length = self._length(item, at, span, made)
            if length and (inner := span.within(at, at, at + length)):
                self._item(item, inner, made, depth)

    def _length(self, item: otio.core.Item, at: Fraction, span: Span, made: Read) -> Fraction:
        """Seconds of the timeline; 0, which is told, for an item that cannot be placed."""
        length, why = _length(item)
        if why:
            made.left.append(f"{span.track} at {_moment(at)}: {_name(item)}: {why}")
        return length / span.pace

    def _item(self, item: otio.core.Item, span: Span, made: Read, depth: int) -> None:
        if not item.enabled or isinstance(item, otio.schema.Gap):
            return
        if depth > LIMIT_NESTED:
            raise TimelineError(f"stacks are nested deeper than {LIMIT_NESTED}, or hold themselves")
        made.placed += [Placed(Work("effects", name), span.start, span.end) for name in _effects(item)]
        inner = replace(span, pace=span.pace * abs(_speed(item)))
        if isinstance(item, otio.schema.Clip):
            self._clip(item, inner, made)
        elif not inner.pace:
            return  # a frame of it is held
        elif isinstance(item, otio.schema.Track):
            self._track(item, inner, made, depth + 1)
        elif isinstance(item, otio.schema.Stack):
            self._stack(item, inner, made, depth + 1)

    def _clip(self, clip: otio.schema.Clip, span: Span, made: Read) -> None:
        if len(made.placed) > LIMIT_CLIPS:
            raise TimelineError(f"the timeline has more than {LIMIT_CLIPS:,} clips and effects")
        where = f"{span.track} at {_moment(span.start)}: {_name(clip)}"
        target = getattr(clip.media_reference, "target_url", None)
        if isinstance(clip.media_reference, otio.schema.GeneratorReference):
            return
        if target is None:
            made.left.append(f"{where}: its media is missing")
        elif self._codecs is not None and target not in self._codecs:
            made.left.append(f"{where}: {target} is not among the media")
        elif span.pace:  # a frame that is held is decoded once
            name = target if self._codecs is None else self._codecs[target]
            made.placed.append(Placed(Work("decode", name, span.pace), span.start, span.end))


_FAR = Fraction(10**9)  # seconds: no timeline is longer


def _timeline(path: Path) -> otio.schema.Timeline:
    """The timeline of a file, or of the only one in it. Raises TimelineError."""
    content = _content(path)
    try:
        # It is well formed, and not deeper than this reader goes: the library goes as deep as a document says.
        msgspec.json.decode(content, type=msgspec.Raw)
        read = otio.adapters.read_from_string(content.decode("utf-8"), "otio_json")
    except RecursionError as fault:
        raise TimelineError(f"{path}: the timeline is nested too deep") from fault
    except Exception as fault:  # the library raises many sorts
        reason = str(fault).strip().splitlines()[0][:200] if str(fault).strip() else type(fault).__name__
        raise TimelineError(f"{path}: this is no timeline: {reason}") from fault
    if isinstance(read, otio.schema.SerializableCollection) and len(read) == 1:
        (read,) = read
    if not isinstance(read, otio.schema.Timeline):
        raise TimelineError(f"{path}: expected one timeline of OpenTimelineIO")
    return read


def _content(path: Path) -> bytes:
    """The document of a timeline: the file, or what lies in a bundle of it. Raises TimelineError."""
    try:
        match path.suffix.lower():
            case ".otioz":
                with zipfile.ZipFile(path) as bundle, bundle.open(_INNER) as inner:
                    content = inner.read(LIMIT_BYTES + 1)
            case ".otiod":
                content = _limited(path / _INNER)
            case _:
                content = _limited(path)
    except OSError as fault:
        raise TimelineError(f"{path} cannot be read: {fault.strerror or fault}") from fault
    except (zipfile.BadZipFile, KeyError, RuntimeError, NotImplementedError, EOFError, zlib.error) as fault:
        raise TimelineError(f"{path}: this is no bundle of a timeline: {fault}") from fault
    if len(content) > LIMIT_BYTES:
        raise TimelineError(f"{path}: the timeline is larger than {LIMIT_BYTES:,} bytes")
    return content


def _limited(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(LIMIT_BYTES + 1)


def _rate_of(timeline: otio.schema.Timeline) -> Fraction:
    """Of its beginning, else of the first item that says one."""
    times = [timeline.global_start_time] if timeline.global_start_time else []
    times += [item.source_range.duration for item in timeline.find_children() if getattr(item, "source_range", None)]
    for clip in timeline.find_clips():
        if clip.media_reference and clip.media_reference.available_range:
            times.append(clip.media_reference.available_range.duration)
    rates = [time.rate for time in times if time.rate > 0]
    if not rates:
        raise TimelineError("the timeline says no rate above 0")
    return exact_rate(rates[0])


def exact_rate(rate: float) -> Fraction:
    """A rate as the fraction that was meant: `23.976` is 24000/1001."""
    near = Fraction(round(rate * _NTSC / 1000) * 1000, _NTSC)
    whole = Fraction(rate).limit_denominator(_NTSC)
    return near if near.denominator == _NTSC and abs(near - Fraction(rate)) < Fraction(1, 500) else whole


def _seconds(time: otio.opentime.RationalTime) -> Fraction:
    return Fraction(time.value).limit_denominator(10**6) / exact_rate(time.rate)


def _content_begins(item: otio.core.Item, span: Span) -> Fraction:
    """Where the content of a track or stack would begin, were it not trimmed."""
    return span.origin - (_seconds(item.source_range.start_time) / span.pace if item.source_range else 0)


def _length(item: otio.core.Item) -> tuple[Fraction, str]:
    """How long an item is in seconds, and why it cannot be placed; empty where it can."""
    try:
        time = item.trimmed_range().duration
    except Exception:
        return Fraction(0), "it does not say how long it is"
    if not 0 < time.rate < 1e6 or not abs(time.value) < 1e12:
        return Fraction(0), f"it has a rate of {time.rate:g}"
    length = _seconds(time)
    return (Fraction(0), "it ends before it begins") if length < 0 else (length, "")


def _overlaps(items: list[otio.core.Composable], place: int) -> tuple[Fraction, Fraction]:
    """How far an item runs beyond its cuts, in the transitions before and behind it."""
    before, behind = (items[n] if 0 <= n < len(items) else None for n in (place - 1, place + 1))
    return (
        _seconds(before.in_offset) if isinstance(before, otio.schema.Transition) else Fraction(0),
        _seconds(behind.out_offset) if isinstance(behind, otio.schema.Transition) else Fraction(0),
    )


def _speed(item: otio.core.Item) -> Fraction:
    """How fast its source runs; a frame that is held does not run."""
    speed = Fraction(1)
    for effect in item.effects:
        if isinstance(effect, otio.schema.LinearTimeWarp):
            speed *= Fraction(effect.time_scalar).limit_denominator(10_000)
    return speed


def _effects(item: otio.core.Item) -> Iterator[str]:
    for effect in item.effects:
        if not isinstance(effect, otio.schema.TimeEffect) and (name := effect.effect_name or effect.name):
            yield name


def _name(item: otio.core.Composable) -> str:
    return re.sub(r"[\x00-\x1f]", " ", item.name or type(item).__name__)[:80]


def _moment(at: Fraction) -> str:
    return f"{at.numerator}/{at.denominator}"
