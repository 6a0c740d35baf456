"""Questions as people ask them, with names for conditions and a title that anybody understands."""

from collections.abc import Sequence
from typing import Annotated, Literal

from ninja import Schema
from pydantic import AwareDatetime, Field

from normant.common.problems import Problem
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.base.wording import counted, on_seats, with_app
from normant_core.catalogue.settings import Kind, catalogue
from normant_core.measure.conditions import wanted_value
from normant_core.measure.design import DesignError
from normant_core.measure.estimates import MATTERS
from normant_core.measure.question import AS_IT_IS, ByHand, Condition, Question, SetValue, TrialKind, it_does, to_do
from normant_core.orders.kinds import Beside, Job
from normant_core.seat.survey import Survey

from .models import Clip
from .services.start_trial import MOST_SEATS, Asked

LONGEST_NAME = 120
MOST_SETS, MOST_CONDITIONS = 15, 64
Text = Annotated[str, Field(max_length=400)]


class SetIn(Schema):
    """A value of a setting; `app` is null for the machine's own."""

    setting: Annotated[str, Field(max_length=80)]
    app: Annotated[str, Field(max_length=64)] | None = None
    value: bool | int | float | Text

    def wanted(self) -> SetValue:
        """Canonical. Raises Problem."""
        value = {"true": True, "false": False}.get(str(self.value), self.value) if self._is_bool() else self.value
        try:
            return wanted_value(self.setting, self.app, value)
        except DesignError as why:
            raise Problem(422, "No trial of this", str(why)) from why

    def _is_bool(self) -> bool:
        """Whether its words mean on and off."""
        known = catalogue().settings.get(self.setting)
        return known is not None and known.kind is Kind.BOOL


class ConditionIn(Schema):
    """The values to set; empty means unchanged. `device` is the id of a GPU, or `cpu`, for trials of devices."""

    sets: list[SetIn] = Field(default=[], max_length=MOST_SETS)
    device: Literal["", "cpu"] | Annotated[str, Field(pattern="^gpu[0-9]{1,2}$")] = ""


class ByHandIn(Schema):
    """What somebody at the seat does: a stretch of a clip, with its frames and rate, or what is exported by `app`."""

    what: Annotated[str, Field(min_length=1, max_length=300, pattern=r"\S")]
    frames: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    rate: Annotated[float, Field(ge=0, le=1000)] = 0
    app: Annotated[str, Field(max_length=64)] = ""

    def wanted(self) -> ByHand:
        """As core has it."""
        return ByHand(self.what.strip(), self.frames, self.rate, self.app.strip())


class BesideIn(Schema):
    """Another application's job that a ladder watches: a render of `app`, or decoding of the clip."""

    job: Literal["decode", "render"]
    app: Annotated[str, Field(max_length=64)] = ""

    def wanted(self) -> Beside:
        """As core has it."""
        return Beside(self.job, self.app.strip() if self.job == "render" else "")


class TrialIn(Schema):
    """A question, and where it is asked; `matters` is the ratio that would make a difference."""

    kind: TrialKind
    job: Job
    conditions: list[ConditionIn] = Field(min_length=1, max_length=MOST_CONDITIONS)
    seats: list[Annotated[str, Field(max_length=64)]] = Field(min_length=1, max_length=MOST_SEATS)
    matters: float = Field(MATTERS, ge=1.01, le=2)
    clip: int | None = None
    volume: Annotated[str, Field(max_length=40)] = ""
    because: Annotated[str, Field(max_length=300)] = ""
    begins: AwareDatetime | None = None
    by_hand: ByHandIn | None = None
    beside: BesideIn | None = None

    def asked(self) -> Asked:
        """As core has it, with names. Raises Problem."""
        wanted = [tuple(given.wanted() for given in condition.sets) for condition in self.conditions]
        names = _names(self, wanted)
        made = [
            Condition(name, sets, condition.device)
            for name, sets, condition in zip(names, wanted, self.conditions, strict=True)
        ]
        restarts = any(catalogue()[s.setting].restart == "app" for sets in wanted for s in sets)
        hand = self.by_hand.wanted() if self.by_hand else None
        question = Question(
            self.kind,
            self.job,
            tuple(made),
            matters=self.matters,
            restarts=restarts,
            by_hand=hand,
            beside=self.beside.wanted() if self.beside else None,
        )
        seats = sorted({*self.seats})
        clip = Clip.objects.filter(pk=self.clip or 0).values_list("name", flat=True).first()
        title = _title(question, seats, clip or "")
        return Asked(question, seats, title, self.clip, self.volume.strip(), self.because.strip(), self.begins)


def _names(given: TrialIn, wanted: Sequence[tuple[SetValue, ...]]) -> list[str]:
    """By value where all conditions set the same setting; else with the setting's title."""
    keys = {(s.setting, s.app) for sets in wanted for s in sets}
    single = len(keys) == 1 and given.kind != "screening"
    here = _as_it_is(given.seats, next(iter(keys))) if single else ""
    return [
        _name(sets, condition.device, here, single=single)
        for sets, condition in zip(wanted, given.conditions, strict=True)
    ]


def _name(sets: Sequence[SetValue], device: str, here: str, *, single: bool) -> str:
    parts = [s.shown if single else f"{with_app(catalogue()[s.setting].title, s.app)}: {s.shown}" for s in sets]
    name = ", ".join([*parts, *([device] if device else [])])
    return (name or (f"{here}, {AS_IT_IS}" if here else AS_IT_IS))[:LONGEST_NAME]


def _as_it_is(seats: Sequence[str], key: tuple[str, str | None]) -> str:
    """The value that all of these seats have now; empty where they differ."""
    numbers = Seat.objects.active().filter(name__in=seats).values_list("pk", flat=True)
    shown = {_shown(survey, key) for survey in latest_surveys(numbers).values()}
    return shown.pop() if len(shown) == 1 else ""


def _shown(survey: Survey, key: tuple[str, str | None]) -> str:
    value = survey.values().get(key)
    return "" if value is None else catalogue()[key[0]].show(value)


def _title(question: Question, seats: Sequence[str], clip: str) -> str:
    """`Does Preview pool of Corrow 12.8 GiB play faster on pan-03?`"""
    where, sets = f"on {on_seats(list(seats))}", [s for c in question.conditions for s in c.sets]
    if question.kind == "screening":
        return f"Which of {counted(len(question.conditions), 'setting')} matter {where}, to {to_do(question.job)}?"
    if not sets:
        return f"Which device {it_does(question.job)} {f'{clip} ' if clip else ''}fastest {where}?"
    what = f"{with_app(catalogue()[sets[0].setting].title, sets[0].app)}"
    if question.kind == "ladder":
        return f"How much {what} is enough {where}?"
    if question.kind == "choice":
        return f"Which {what} {it_does(question.job)} best {where}?"
    more = f" and {counted(len(sets) - 1, 'more change')}" if len(sets) > 1 else ""
    return f"Does {what} at {sets[0].shown}{more} {to_do(question.job)} faster {where}?"[:200]
