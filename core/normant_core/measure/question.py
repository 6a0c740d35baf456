"""What a trial asks: which conditions are compared, by which job, and what can be no question."""

from collections.abc import Mapping
from typing import Literal, get_args

import msgspec

from ..base.quantities import Plain
from ..base.wording import app_title
from ..orders.kinds import Beside, Job
from .design import DesignError
from .estimates import MATTERS

TrialKind = Literal["change", "choice", "ladder", "screening"]
AS_IT_IS = "as it is"
LEAST_OF = {"change": 2, "choice": 2, "ladder": 3, "screening": 2}
MOST_OF = {"change": 2, "choice": 8, "ladder": 64, "screening": 15}
_DOES = {
    "play": ("play", "plays"),
    "render": ("render", "renders"),
    "decode": ("decode", "decodes"),
    "disk": ("move data", "moves data"),
}
LONGEST_BY_HAND = 3600  # seconds of a run
EARLY = 0.9  # of a stretch: who stops before that has not played it


class SetValue(msgspec.Struct, frozen=True, omit_defaults=True):
    """One value that a condition sets; `shown` as people read it, the setting with its title."""

    setting: str
    app: str | None
    value: Plain
    shown: str = ""


def it_does(job: str) -> str:
    """`plays`, `moves data`: what a seat does in a run of a job."""
    return _DOES[job][1]


def to_do(job: str) -> str:
    """`play`, `move data`."""
    return _DOES[job][0]


def jobs_alone(host: str) -> tuple[Job, ...]:
    """The jobs that an agent on such a host runs by itself. Playing and rendering are an application's own: only a
    stand-in does them, elsewhere somebody at the seat does."""
    return get_args(Job) if host == "stand-in" else ("decode", "disk")


class Condition(msgspec.Struct, frozen=True, omit_defaults=True):
    """What is set while a run is made; nothing: as it is. `device` is what decodes or encodes, for jobs of a device."""

    name: str
    sets: tuple[SetValue, ...] = ()
    device: str = ""


class ByHand(msgspec.Struct, frozen=True, omit_defaults=True):
    """What somebody at the seat does in each run: `what` is the clip and its stretch, or what is exported.

    A stretch to be played has so many `frames` at a `rate`; of an export the agent times what comes into the store of
    `app`, where that is named.
    """

    what: str
    frames: int = 0
    rate: float = 0
    app: str = ""


class Question(msgspec.Struct, frozen=True, omit_defaults=True):
    """What a trial asks: in a screening the conditions are its factors, each with the value that it has when high.

    `matters` is the ratio that would make a difference to people; `restarts` whether setting a condition restarts
    something. `by_hand` where people make the runs. Of a ladder, what slows the job `beside` it does harm.
    """

    kind: TrialKind
    job: Job
    conditions: tuple[Condition, ...]
    seed: int = 0
    matters: float = MATTERS
    restarts: bool = False
    by_hand: ByHand | None = None
    beside: Beside | None = None

    @property
    def names(self) -> list[str]:
        """Of its conditions, or of its factors."""
        return [condition.name for condition in self.conditions]


def check_question(question: Question) -> None:
    """Raises DesignError for a question that no runs can answer."""
    least, most = LEAST_OF[question.kind], MOST_OF[question.kind]
    noun = "setting" if question.kind == "screening" else "condition"
    if not least <= len(question.conditions) <= most:
        raise DesignError(f"a {question.kind} has {least} to {most} {noun}s, this one {len(question.conditions)}")
    if twice := next((name for name in question.names if question.names.count(name) > 1), ""):
        raise DesignError(f"duplicate {noun} {twice}")
    if len({*map(_what, question.conditions)}) < len(question.conditions):
        raise DesignError(f"two {noun}s are the same")
    if question.kind == "screening":
        _check_factors(question)
    if question.by_hand:
        _check_by_hand(question, question.by_hand)
    if question.beside:
        _check_beside(question, question.beside)


def _check_by_hand(question: Question, by_hand: ByHand) -> None:
    if question.job not in ("play", "render"):
        raise DesignError(f"{question.job} can only be measured by the agent, not by hand")
    if question.job == "play" and not (by_hand.frames > 0 and by_hand.rate > 0):
        raise DesignError("say how many frames the stretch has, and at which rate it is played")


def _check_beside(question: Question, beside: Beside) -> None:
    if question.kind != "ladder" or question.by_hand:
        raise DesignError("another application's job is watched by ladders that the agent measures, by no other trial")
    if beside.job == "render" and not beside.app:
        raise DesignError("say which application renders beside it")
    own = {wanted.app for condition in question.conditions for wanted in condition.sets}
    if beside.app in own:
        raise DesignError(f"{beside.app} is what is set: the job of another application shows what that costs others")


def noted(question: Question, seconds: float, dropped: int) -> float:
    """The figure of a run that somebody has timed: seconds of an export, else the frames per second that were shown.

    Whoever stops a little early played no faster than the stretch is. Raises DesignError for what cannot be.
    """
    if not 0 < seconds < LONGEST_BY_HAND:
        raise DesignError(f"a run of {seconds:g} s is none; expected up to {LONGEST_BY_HAND // 60} min")
    by_hand = question.by_hand
    if question.job == "render" or by_hand is None:
        return seconds
    due = by_hand.frames / by_hand.rate
    if seconds < EARLY * due:
        raise DesignError(f"the stretch lasts {due:.0f} s, and was stopped after {seconds:.0f} s: play all of it")
    if not 0 <= dropped < by_hand.frames:
        raise DesignError(f"of {by_hand.frames:,} frames {dropped:,} cannot have been dropped: nothing would be shown")
    return (by_hand.frames - dropped) / max(seconds, due)


def _check_factors(question: Question) -> None:
    if not all(condition.sets for condition in question.conditions):
        raise DesignError("a setting of a screening has no value to be tried")


def _what(condition: Condition) -> str:
    """What it sets, without how that is shown."""
    return repr((condition.device, *((s.setting, s.app, s.value) for s in condition.sets)))


def high_in(question: Question, condition: str) -> list[str]:
    """The factors that a run of a screening sets, by its name of `+` and `-`."""
    return [name for name, sign in zip(question.names, condition, strict=True) if sign == "+"]


def sets_of(question: Question, condition: str) -> tuple[SetValue, ...]:
    """Everything that is set for a run."""
    if question.kind == "screening":
        high = {*high_in(question, condition)}
        return tuple(wanted for factor in question.conditions if factor.name in high for wanted in factor.sets)
    return next(named.sets for named in question.conditions if named.name == condition)


def is_condition(question: Question, condition: str) -> bool:
    """Whether a run may bear this name: that of a condition, or of a screening its `+` and `-`."""
    if question.kind == "screening":
        return len(condition) == len(question.conditions) and {*condition} <= {"+", "-"}
    return condition in question.names


def factor_columns(question: Question, condition: str) -> Mapping[str, int]:
    """The level of each factor in a run of a screening, by its name of `+` and `-`."""
    return {name: 1 if sign == "+" else -1 for name, sign in zip(question.names, condition, strict=True)}


def beside_words(beside: Beside) -> str:
    """`renders of Verrano`, or `decoding by another application`."""
    return f"{app_title(beside.app)} exports" if beside.job == "render" else "decoding by another application"
