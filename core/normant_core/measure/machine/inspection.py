"""Whether a finished export is whole: what it should be, and what every frame of it shows."""

import tomllib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, Literal

import msgspec

from ...base.errors import DocumentError, Fault
from ...base.toml_places import check_bounds
from ...base.wording import counted, listed
from ...orders.exports import FORMAT, Deliverable, Flaw, Sound, Specification

Seen = Literal["damaged", "black", "frozen", "missing"]
BLACK = 0.085  # of full brightness: up to this a frame is black, whatever its range
FROZEN_FROM = 5  # frames alike in a row
LIMIT_FAULTS = 1_000  # stretches that are kept


@dataclass(frozen=True, slots=True)
class SeenFrame:
    """One decoded frame: when it is due in seconds (None where nobody says), how bright its brightest part is (0 to 1),
    whether it is as the one before, and whether the decoder found it damaged."""

    moment: Fraction | None
    light: float
    same: bool
    damaged: bool = False


@dataclass(slots=True)
class Watch:
    """Takes frames one by one, and keeps in which stretches something is wrong with them."""

    rate: Fraction
    count: int = 0  # with those that are missing
    decoded: int = 0
    flaws: list[Flaw] = field(default_factory=list)
    _since: dict[Seen, int] = field(default_factory=dict)
    _last: Fraction | None = None

    def add(self, frame: SeenFrame) -> None:
        """The next frame."""
        if missing := self._missing(frame.moment):
            self._keep("missing", self.count, missing)
            self.count += missing
        black = frame.light <= BLACK
        self._follow("damaged", frame.damaged)
        self._follow("black", black)
        self._follow("frozen", frame.same and not black)
        self.count += 1
        self.decoded += 1

    def end(self) -> Sequence[Flaw]:
        """All that was seen, in order."""
        for kind in list(self._since):
            self._follow(kind, False)
        return self.flaws

    def _missing(self, moment: Fraction | None) -> int:
        """How many frames would have had their place between the last one and this."""
        last, self._last = self._last, moment
        if moment is None or last is None:
            return 0
        return max(0, round((moment - last) * self.rate) - 1)

    def _follow(self, kind: Seen, seen: bool) -> None:
        if seen:
            self._since.setdefault(kind, self.count)
        elif kind in self._since:
            since = self._since.pop(kind)
            # The frame that the first frozen one is like is one of them.
            first = since - 1 if kind == "frozen" else since
            if kind != "frozen" or self.count - first >= FROZEN_FROM:
                self._keep(kind, first, self.count - first)

    def _keep(self, kind: Seen, first: int, frames: int) -> None:
        if len(self.flaws) < LIMIT_FAULTS:
            words = f"{counted(frames, 'frame is', 'frames are')} {kind}"
            self.flaws.append(Flaw(kind, words, timecode(first, self.rate), frames))


def timecode(frame: int, rate: Fraction) -> str:
    """`00:01:12:05`: hours, minutes, seconds and frames, counted without dropping any."""
    whole = max(1, round(rate))
    seconds, rest = divmod(frame, whole)
    return f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}:{rest:02}"


def unlike(deliverable: Deliverable, watch: Watch, specification: Specification | None) -> Iterator[Flaw]:
    """Where a file is not what it says itself, or what the specification wants; `watch` has seen all its frames."""
    if deliverable.frames is not None and watch.decoded != deliverable.frames:
        yield Flaw("length", f"the file says {deliverable.frames:,} frames, {watch.decoded:,} could be decoded")
    elif deliverable.least is not None and watch.count < deliverable.least:
        yield Flaw("length", f"the file is as long as {deliverable.least:,} frames, it ends after {watch.count:,}")
    if specification is not None:
        yield from _unwanted(msgspec.structs.asdict(deliverable) | {"frames": watch.decoded}, specification)
        yield from _sound_flaws(deliverable.sound, specification)


def _unwanted(is_now: Mapping[str, Any], specification: Specification) -> Iterator[Flaw]:
    wanted = msgspec.structs.asdict(specification)
    for name in ("container", "codec"):
        if wanted[name] and is_now[name] not in wanted[name]:
            yield Flaw(name, f"the {name} is {is_now[name]}, expected {' or '.join(wanted[name])}")
    for name, words in _EXACT.items():
        if wanted[name] is not None and _exactly(is_now[name]) != _exactly(wanted[name]):
            yield Flaw(name, f"{words} {is_now[name]}, expected {wanted[name]}")


_EXACT = {
    "width": "the width is",
    "height": "the height is",
    "rate": "the rate is",
    "bits": "bits of a channel are",
    "chroma": "the chroma is",
    "frames": "the frames are",
}


def _exactly(value: object) -> object:
    """A rate as a fraction, however it is written; everything else as it is."""
    if not isinstance(value, str) or not value.replace("/", "", 1).isdigit():
        return value
    above, _, below = value.partition("/")
    return Fraction(int(above), int(below or 1) or 1)


def _sound_flaws(sound: Sequence[Sound], specification: Specification) -> Iterator[Flaw]:
    channels = tuple(track.channels for track in sound)
    if specification.channels is not None and channels != specification.channels:
        yield Flaw(
            "sound", f"the tracks of sound have {_shown(channels)} channels, expected {_shown(specification.channels)}"
        )
    for track in sound:
        if specification.sample_rate is not None and track.rate != specification.sample_rate:
            yield Flaw("sound", f"sound has {track.rate:,} samples a second, expected {specification.sample_rate:,}")


def _shown(channels: Sequence[int]) -> str:
    return listed(map(str, channels)) or "no"


def unallowed(flaws: Sequence[Flaw], specification: Specification | None) -> list[Flaw]:
    """The flaws that a specification does not allow."""
    allowed: Sequence[str] = specification.allow if specification else ()
    return [flaw for flaw in flaws if flaw.kind not in allowed]


def read_specification(text: str, source: str) -> Specification:
    """Raises DocumentError for a text that is no specification of a deliverable."""
    check_bounds(text, source)
    try:
        return msgspec.convert(_as_lists(tomllib.loads(text)), Specification)
    except (tomllib.TOMLDecodeError, msgspec.ValidationError, RecursionError) as fault:
        raise DocumentError(
            source, [Fault(str(fault), expected=f'format = "{FORMAT}" and what the file has to be')]
        ) from fault


def _as_lists(document: Mapping[str, Any]) -> dict[str, Any]:
    """One container, codec or number of channels may stand without brackets."""
    several = ("container", "codec", "channels")
    return {k: [v] if k in several and not isinstance(v, list) else v for k, v in document.items()}
