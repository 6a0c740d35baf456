"""What the API takes and tells of projects."""

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from normant.common.schemas import Moment

Folder = Annotated[str, Field(max_length=400)]


class LookAtProjectsIn(Schema):
    """The projects of an application of a seat, or one `file` of them; media belong in `storage`, if named."""

    seat: Annotated[str, Field(min_length=1, max_length=64)]
    app: Annotated[str, Field(min_length=1, max_length=64)]
    file: Folder = ""
    storage: Folder = ""


class ProjectScanOut(Schema):
    """A scan of a seat's projects: `sentence` says how far it is, or how many projects it found."""

    finished: bool
    failed: bool
    sentence: str


class NightlyIn(Schema):
    """A production, and the folder that its media belong in."""

    production: Annotated[str, Field(min_length=1, max_length=120)]
    storage: Folder = ""


class NightlyOut(NightlyIn):
    """A production whose projects are scanned every night."""

    id: int
    made_by: str
    made_at: Moment
    asked_on: str | None


class SentIn(Schema):
    """Whether the list is shown on the seat's own page."""

    sent: bool


class ProjectRowOut(Schema):
    """A project as it was last read; `fault` says why it could not be read.

    An uploaded project has no seat; while `reading`, it waits for a worker.
    """

    id: int
    file: str
    app: str
    seat: str | None
    production: str
    seen_at: Moment
    brought_by: str
    version: str
    fault: str
    reading: bool
    items: int
    used: int
    missing: int
    duplicates: int
    size: int
    unused: int
    troubles: int
    sent_at: Moment | None


class ProjectTroubleOut(Schema):
    """Something that is wrong with `items` of its media, the first of their `paths`, and what to `do`."""

    trouble: Literal["duplicate", "unused", "missing", "misplaced", "odd", "mixed"]
    items: int
    paths: list[str]
    size: int
    why: str
    do: str


class ProjectOut(ProjectRowOut):
    """A project with its problems; `more` problems are not listed, and `by_hand` need a person."""

    list: list[ProjectTroubleOut]
    more: int
    by_hand: int
