"""What is told of the round."""

from typing import Literal

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import By, Moment, Status
from normant_core.words.overnight import Happened


class LineOut(Schema):
    """One finding of a cause."""

    id: int
    seat: str
    setting: str
    title: str
    app: str | None
    reading: str
    norm: str
    fix: str
    distance: float | None
    remote: bool
    tried: str | None


class SpokenOfOut(Schema):
    """A setting of an application that an item is about."""

    setting: str
    title: str
    app: str | None
    remote: bool


class RoundItemOut(Schema):
    """A decision to make: a cause, a stopped seat of a rollout, a waiver that ends, a silent seat, a verdict that
    contradicts a rule, a volume that fills up, a clean-up plan or deliveries that wait. `findings` lists the first
    of `count`, `seats` the first of `seat_count`; `/round/findings` has the rest."""

    kind: Literal[
        "cause",
        "leg",
        "halted",
        "proposed",
        "objection",
        "waiver",
        "flapping",
        "silent",
        "verdict",
        "idle_gpu",
        "trial",
        "fills",
        "clearing",
        "care",
        "put_back",
        "fault",
        "delivery",
        "ended",
    ]
    title: str
    words: str
    seats: list[str]
    seat_count: int
    status: Status | None
    severity: str | None
    distance: float | None
    because: str | None
    findings: list[LineOut]
    count: int
    settings: list[SpokenOfOut]
    rollout: int | None
    waiver: int | None
    trial: int | None
    volume: str | None
    clearing: int | None
    production: str | None
    since: Moment | None


@answer_of(Happened)
class HappenedOut(Schema):
    """What opened or closed since yesterday evening, with its cause."""

    how: Literal["left", "back", "passed"]
    by: By


class OfItemOut(Schema):
    """Everything behind an item: its findings by number, as many as one plan takes, and all of its seats."""

    ids: list[int]
    seats: list[str]


class RoundOut(Schema):
    """The round; `overnight` is what changed since that moment."""

    sentence: str
    since: Moment
    overnight: list[HappenedOut]
    items: list[RoundItemOut]
