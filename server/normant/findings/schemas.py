"""What is told of findings, and of a seat as a whole."""

from typing import Any, Literal

from ninja import Schema
from pydantic import Field

from normant.common.answers import answer_of
from normant.common.schemas import By, LinkOut, ListOf, Moment, NativeOut, Status, VerdictOut
from normant.seats.schemas import SeatOut
from normant_core.house.lint import Doubt
from normant_core.judging.on_seat import OnSeat
from normant_core.seat.comparison import Difference
from normant_core.seat.picture import Budget, Flow, MemoryShare
from normant_core.seat.survey import Unreadable
from normant_core.standard.sentences import ChangedRule

from .reading import MOST_AT_ONCE


class FindingOut(Schema):
    """A reading off norm, from when until when."""

    id: int
    seat: str
    setting: str
    app: str | None
    status: Literal["open", "closed"]
    severity: str
    opened_at: Moment
    opened_by: By
    closed_at: Moment | None
    closed_by: By | None
    waiver: int | None
    verdict: VerdictOut


class GridRowOut(Schema):
    """A setting of an application, with the number of seats by status."""

    setting: str
    app: str | None
    title: str
    family: str
    family_title: str
    remote: bool
    off: int
    unread: int
    waived: int


class GridSeatOut(Schema):
    """A seat, and what the grid can be grouped by."""

    name: str
    room: str
    role: str
    production: str
    hardware_class: str


class CauseOut(Schema):
    """Cells that one change explains; `row` is their setting."""

    title: str
    severity: str
    because: str
    row: int
    seats: int


class GridOut(Schema):
    """Rows by seats.

    `cells`: base64, a byte each, row by row. Bits 0-2: no norm, in norm, unread, waived, off norm. Bit 3: a must. Bits
    4-7: the distance, 0 without direction, else 1 to 15 for -7 to 7 octaves. `cause_of`: base64, the number of the
    cause of each cell that is off norm in the same order, two bytes, the lower first.
    """

    edition: int | None
    at: Moment | None
    sentence: str
    rows: list[GridRowOut]
    seats: list[GridSeatOut]
    causes: list[CauseOut]
    cells: str
    cause_of: str


class CellToldOut(Schema):
    """A cell in words, and the finding behind it."""

    status: Status
    words: str
    fix: str
    because: str
    layer: str
    finding: int | None
    since: Moment | None
    opened_by: By | None


class PlacedOut(Schema):
    """A finding that was selected."""

    id: int
    seat: str
    setting: str
    app: str | None
    title: str
    remote: bool


class WaiverOut(Schema):
    """An accepted deviation: where, why and until when; `covers` counts its open findings."""

    id: int
    setting: str
    title: str
    app: str | None
    seats: list[str]
    groups: dict[str, str]
    scope: str
    reason: str
    made_at: Moment
    made_by: str | None
    ends_at: Moment | None
    until_production: str
    ended_at: Moment | None
    ended_by: str
    ends_soon: bool
    covers: int


class DraftRowOut(Schema):
    """A text that may become an edition."""

    id: int
    base: int
    note: str
    made_by: str
    changed_at: Moment
    approved_by: str | None
    publish_at: Moment | None
    problem: str
    ended_at: Moment | None
    edition: int | None
    seen: str


class DraftOut(DraftRowOut):
    """With its text."""

    text: str


@answer_of(Doubt)
class DoubtOut(Schema):
    """Something doubtful in a standard."""

    level: Literal["warning", "note"]


class TextOut(Schema):
    """A text of the standard."""

    text: str


@answer_of(OnSeat)
class OnSeatOut(Schema):
    """The result of a rule for a reading of a seat."""

    how: Literal["made", "lost", "silent"]


class WordOut(Schema):
    """A setting: `values` are those of an enumeration, `scope` is `app` where each application has its own."""

    key: str
    title: str
    values: list[str]
    scope: str


class NamedFactOut(Schema):
    """A name that a condition may use, and its meaning."""

    name: str
    title: str


class WordsOut(Schema):
    """What can be written in a standard."""

    fields: list[str]
    settings: list[WordOut]
    facts: list[NamedFactOut]
    names: list[str]
    functions: list[str]
    units: list[str]


@answer_of(ChangedRule)
class ChangedOut(Schema):
    """A rule before and after, in a sentence; null: it is not there."""


class CoveredOut(Schema):
    """How many findings a waiver would cover, and on which seats."""

    findings: int
    seats: list[str]


class EndedOut(Schema):
    """How many waivers have ended."""

    waivers: int


class StepOut(Schema):
    """A part of a rule, and its result."""

    part: str
    result: str


class HeldOut(Schema):
    """The waiver that covers a reading: its number, and when it ends."""

    id: int
    ends_at: Moment | None
    until_production: str


class RowOut(Schema):
    """One reading in a seat's record; the fields of the norm are empty if no rule applies.

    `rule` is the text of the condition, if the norm is one.
    """

    setting: str
    title: str
    help: str
    app: str | None
    reading: str
    since: Moment | None
    cause: str | None
    entered_by: str
    native: NativeOut | None
    finding: int | None
    waiver: HeldOut | None
    remote: bool
    status: Status
    words: str
    severity: str
    distance: float | None
    norm: str
    rule: str
    origin: str
    chain: list[LinkOut]
    fix: str
    because: str
    steps: list[StepOut]
    reason: str


class FamilyOut(Schema):
    """The readings of a family."""

    family: str
    title: str
    rows: list[RowOut]


@answer_of(Unreadable)
class UnreadableOut(Schema):
    """Something that the agent could not read."""


@answer_of(Flow)
class FlowOut(Schema):
    """Work of an application, and the device that does it."""


@answer_of(MemoryShare)
class ShareOut(Schema):
    """A part of the memory, in bytes."""


@answer_of(Budget)
class BudgetOut(Schema):
    """How the memory is cut, and by how much it is over."""


class SeatRecordOut(SeatOut):
    """The whole record of a seat; facts, stores and activity as docs/schemas/survey.json has them."""

    edition: int | None
    facts: dict[str, Any] | None
    families: list[FamilyOut]
    errors: list[UnreadableOut]
    stores: list[dict[str, Any]]
    activity: dict[str, Any] | None
    clock_behind: int | None
    at: Moment | None
    flows: list[FlowOut]
    budget: BudgetOut | None


class MovedOut(Schema):
    """One step of a reading, or of a fact (then `setting` is null)."""

    at: Moment
    setting: str | None
    title: str
    app: str | None
    family: str
    before: str | None
    after: str | None
    cause: str


class ChangesOut(ListOf[MovedOut]):
    """What changed, and since when there is a record."""

    first: Moment | None


@answer_of(Difference)
class DifferenceOut(Schema):
    """A setting that differs; `sharing` of `peers` hold this seat's value.

    `effect` says in a word how likely it is the cause; `finding` is the open finding whose correction changes it.
    """

    effect: Literal["strong", "moderate", "weak", "none"]
    finding: int | None


class SideOut(Schema):
    """One side; `seat` is null for all peers together."""

    seat: str | None
    at: Moment | None
    name: str = ""


class PeersOut(Schema):
    """Seats of the same kind without critical findings or warnings, by which rarity is measured."""

    names: list[str]
    kind: str


class FactOut(Schema):
    """A part of the facts that differs."""

    name: str
    mine: str | None
    theirs: str | None


class CompareOut(Schema):
    """What differs, the likeliest cause first."""

    mine: SideOut
    theirs: SideOut
    peers: PeersOut
    sentence: str
    differences: list[DifferenceOut]
    facts: list[FactOut]
    same: int


class ContradictedOut(Schema):
    """A rule by its layer and its place in that, the seats that do well against it, and the sentence that says so."""

    at: list[int]
    seats: list[str]
    sentence: str


class FindingsIn(Schema):
    """Findings that a person is to settle."""

    findings: list[int] = Field(min_length=1, max_length=MOST_AT_ONCE)
