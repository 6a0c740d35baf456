"""What is told of trials."""

from typing import Literal

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import Moment
from normant_core.measure.evidence import Evidence
from normant_core.measure.machine.memory import Cut
from normant_core.measure.machine.proof import Proof
from normant_core.measure.machine.readiness import Guard, Readiness
from normant_core.measure.question import ByHand, Condition, SetValue, TrialKind
from normant_core.measure.screening import Effect
from normant_core.measure.verdict import Compared
from normant_core.orders.kinds import Job
from normant_core.orders.samples import Samples

State = Literal["running", "halted", "ended"]


@answer_of(SetValue)
class SetValueOut(Schema):
    """A value that a condition sets."""


@answer_of(Condition)
class ConditionOut(Schema):
    """The values that are set during a run."""


@answer_of(ByHand)
class ByHandOut(Schema):
    """What somebody at the seat does in each run."""


@answer_of(Compared)
class ComparedOut(Schema):
    """How many times as fast one condition is as another; `high` is null where nothing bounds it."""

    high: float | None


@answer_of(Effect)
class EffectOut(Schema):
    """How many times as fast runs are with a setting as without."""


@answer_of(Samples)
class SamplesOut(Schema):
    """What the machine did during a run."""


class IntervalOut(Schema):
    """What a trial shows of two conditions or of one factor, as a ratio of speeds with its interval."""

    name: str
    ratio: float
    low: float | None
    high: float | None
    outcome: str


class TrialRowOut(Schema):
    """A trial in a list; `old` says what changed since its verdict, `blocks` how many the seats have on average.

    `interval` is the clearest difference found, null before there is any; `matters` the smallest ratio that matters.
    """

    id: int
    title: str
    kind: TrialKind
    job: Job
    state: State
    sentence: str
    old: str
    seats: list[str]
    blocks: float
    expected: int
    created_by: str
    created_at: Moment
    ended_at: Moment | None
    matters: float
    interval: IntervalOut | None


class RunOut(Schema):
    """One run: its `figure` counts (null: not made yet), what came before it after a change does not."""

    id: int
    seat: str
    block: int
    place: int
    condition: str
    figure: float | None
    thrown: list[float]
    harmful: bool
    beside: float | None
    ended_at: Moment | None
    has_samples: bool


class TrialSeatOut(Schema):
    """A trial on one seat."""

    seat: str
    state: Literal["waiting", "at work", "done", "stopped", "halted"]
    message: str
    ended_at: Moment | None


class BesideOut(Schema):
    """Another application's job that is watched, whose it is, and how it is called."""

    job: Job
    app: str
    words: str


class TrialOut(TrialRowOut):
    """A trial with its runs, and what they show so far."""

    because: str
    reason: str
    begins: Moment | None
    clip: str
    clip_id: int | None
    volume: str
    by_hand: ByHandOut | None
    beside: BesideOut | None
    conditions: list[ConditionOut]
    on: list[TrialSeatOut]
    runs: list[RunOut]
    means: dict[str, float]
    comparisons: list[ComparedOut]
    effects: list[EffectOut]
    smallest: str


@answer_of(Proof)
class ProofOut(Schema):
    """Whether a device that was set to work was busy."""


class RunSamplesOut(Schema):
    """A run with the machine's load during it, and whether the selected GPU did the work."""

    id: int
    samples: SamplesOut | None
    proof: list[ProofOut]


class SheetSeatOut(Schema):
    """A seat of a trial that is made by hand."""

    seat: str
    state: str
    message: str


class SheetRunOut(Schema):
    """The next run on a seat: its position in the block, the person who makes it, the values that are set for it and
    until when. `takes` are the recorded results; `needed` is how many are required, of which the first do not
    count."""

    id: int
    block: int
    place: int
    in_block: int
    condition: str
    state: Literal["free", "setting", "set", "ending"]
    until: Moment | None
    taken_by: str
    mine: bool
    takes: list[float]
    needed: int


class SheetOut(Schema):
    """The run sheet of a seat: what is done by hand, and the run that is due; none where it waits, or all are made."""

    title: str
    job: Job
    state: State
    by_hand: ByHandOut
    seat: str
    message: str
    seats: list[SheetSeatOut]
    run: SheetRunOut | None


class LookOut(Schema):
    """What starting this would mean: conditions by name, what is in the way, how many runs, what is closed for them.

    `outdated` are agents that will refuse it.
    """

    title: str
    conditions: list[str]
    unfit: list[str]
    outdated: list[str]
    expected_blocks: int
    most_blocks: int
    runs: int
    minutes: int
    closes: list[str]


class StartedTrialOut(Schema):
    """The number of the trial; or of what waits for a second person."""

    id: int | None = None
    proposal: int | None = None


class DraftedOut(Schema):
    """The number of a draft of the standard."""

    draft: int


class ClipOut(Schema):
    """A reference clip."""

    id: int
    name: str
    codec: str
    width: int | None
    height: int | None
    size: int
    digest: str
    kept_by: str
    kept_at: Moment
    trials: int


class TriableOut(Schema):
    """A setting that a trial can test: its value on the seats (empty: not the same), and the norm.

    `jobs` are those that all of these seats can run unattended; others need a person at the seat.
    """

    setting: str
    app: str | None
    title: str
    help: str
    here: str
    wanted: str
    values: list[str]
    open: bool
    ordered: bool
    unit: str
    jobs: list[Job]


@answer_of(Cut)
class CutOut(Schema):
    """Workers and preview pool (bytes), and their result."""


class ClassOfSeatsOut(Schema):
    """A hardware class: the number of its seats with a survey, and the first of them as an example."""

    name: str
    count: int
    first: str


class SeatCutOut(Schema):
    """How the memory of a seat is cut, in bytes: every share, and what rules allow of the preview pool and why."""

    seat: str
    app: str
    apps: list[str]
    frame: str
    bits: int
    rate: str
    total: int
    cores: int
    reserved: int
    held_back: int
    foreground: int
    per_worker: int
    pool_least: int
    pool_most: int
    pool_because: str
    pool_here: int
    pool_shown: str
    most_workers: int
    classes: list[ClassOfSeatsOut]
    running: list[str]
    cut: CutOut


class RouteOut(Schema):
    """Which device decodes a codec; `rate` is frames per second, where measured, `plays` whether that is enough."""

    codec: str
    device: str
    rate: float | None
    plays: bool | None
    sentence: str
    remedy: str


class SeatRoutesOut(Schema):
    """The routes of a seat, in the order of the codecs."""

    seat: str
    hardware_class: str
    routes: list[RouteOut]


class GroupRouteOut(RouteOut):
    """The route of a codec on a group of seats; `rate` is the mean of the seats in `measured_on`."""

    measured_on: list[str]


class RouteGroupOut(Schema):
    """Seats of one hardware class that decode every codec on the same device for the same reason."""

    hardware_class: str
    seats: list[str]
    routes: list[GroupRouteOut]


class RoutesOut(Schema):
    """Codecs by seats and by groups of similar seats, against the rate that is needed; `sentence` counts slow ones."""

    codecs: list[str]
    needed: float
    sentence: str
    groups: list[RouteGroupOut]
    seats: list[SeatRoutesOut]


@answer_of(Evidence)
class EvidenceOut(Schema):
    """What a trial says of a rule of the standard in force."""


@answer_of(Guard)
class GuardOut(Schema):
    """A lowered preview setting, and whether it stays out of exports."""


@answer_of(Readiness)
class ReadinessOut(Schema):
    """Whether a seat may deliver."""
