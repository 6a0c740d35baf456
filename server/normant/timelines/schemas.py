"""What is told of timelines."""

from typing import Literal

from ninja import Schema

from normant.common.schemas import Moment


class TimelineRowOut(Schema):
    """A timeline in a list; `rate` is exact (`25`, `24000/1001`)."""

    id: int
    name: str
    rate: str
    seconds: float
    clips: int
    kept_by: str
    kept_at: Moment


class SourceOut(Schema):
    """A source: its codec (empty where nobody said it), its frame in pixels, and for how many seconds it is used."""

    target: str
    codec: str
    width: int
    height: int
    seconds: float


class EffectUsedOut(Schema):
    """An effect that is used; `only_cpu`: it has no GPU form. Without devices the house has not said what it costs."""

    name: str
    devices: list[str]
    only_cpu: bool


class SeatPlaysOut(Schema):
    """How a seat plays a timeline: its highest load (1 is all of a device), what limits it, for how many seconds.

    `unmeasured` counts as nothing: measure it. `by_class`: some of it was measured on others of its class.
    """

    seat: str
    hardware_class: str
    plays: bool
    worst: float
    limited_by: str
    over_seconds: float
    unmeasured: list[str]
    by_class: bool


class TimelineOut(TimelineRowOut):
    """A timeline, what it is made of, what could not be placed, and how every seat plays it."""

    left: list[str]
    sources: list[SourceOut]
    effects: list[EffectUsedOut]
    seats: list[SeatPlaysOut]


class RemedyStepOut(Schema):
    """One change: playback at a scale (`name`), a proxy of a source (`name`), or a stretch rendered ahead (seconds)."""

    kind: Literal["scale", "proxy", "ahead"]
    name: str
    start: float | None
    end: float | None
    size: int
    minutes: float | None


class RemedyOut(Schema):
    """Changes that together make all of it play, and their bytes."""

    steps: list[RemedyStepOut]
    size: int
    sentence: str


class SeatTimelineOut(SeatPlaysOut):
    """A timeline on a seat in columns: between each two `edges` (seconds) the load of every device, and the frames per
    second that it plays at."""

    edges: list[float]
    devices: list[str]
    loads: list[list[float]]
    plays_at: list[float]
    remedies: list[RemedyOut]


class CostsOut(Schema):
    """The text of the facility's effects list; `id` is 0 if there is no list."""

    id: int
    text: str
    kept_by: str
    kept_at: Moment | None
