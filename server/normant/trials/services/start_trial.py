"""Starting a trial."""

import datetime as dt
import hashlib
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import msgspec
from django.conf import settings
from django.db import transaction

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.base.errors import NormantError
from normant_core.base.quantities import Version
from normant_core.base.wording import on_seats
from normant_core.measure.conditions import changes_for
from normant_core.measure.design import DesignError
from normant_core.measure.question import Question, check_question, jobs_alone

from ..models import Clip, Trial, TrialSeat
from .advance_trial import advance_trial_soon

MOST_SEATS = 50
MOST_OPEN = 100  # trials that are not over
SEEDS = 2**31


@dataclass(frozen=True, slots=True)
class Asked:
    """A question, where it is asked, and on which terms; `clip` is a clip's number."""

    question: Question
    seats: Sequence[str]
    title: str
    clip: int | None = None
    volume: str = ""
    because: str = ""
    begins: dt.datetime | None = None

    def digest(self) -> str:
        """The same question on the same seats is the same trial."""
        parts = (msgspec.structs.replace(self.question, seed=0), sorted(self.seats), self.clip, self.volume)
        return hashlib.sha256(msgspec.json.encode(parts)).hexdigest()


def start_or_propose(user: User, asked: Asked) -> Trial | Proposal:
    """Start it, or where the house asks for a second person, have it wait for one. Raises Problem."""
    if not settings.NORMANT.second_person:
        return start_trial(user, asked)
    check_asked(asked)
    lines = [asked.title, f"measured by: {asked.question.job}, on {on_seats(list(asked.seats))}"]
    for condition in asked.question.conditions:
        what = ", ".join(f"{s.setting}{f' of {s.app}' if s.app else ''}: {s.shown}" for s in condition.sets)
        lines.append(f"{condition.name}: {what or condition.device or 'nothing is set'}")
    body = msgspec.to_builtins(asked)
    return propose(user, Wanted("start_trial", ", ".join(asked.seats)[:160], lines, body))


def start_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    start_trial(user, msgspec.convert(body, Asked, strict=False))


@transaction.atomic
def start_trial(user: User, asked: Asked) -> Trial:
    """A trial that runs. The same once more, while it runs, is the one that was started. Raises Problem."""
    digest = asked.digest()
    lock("start trial")
    if there := Trial.objects.filter(seen=digest, ended_at=None).first():
        if there.created_by_id != user.pk:
            raise Problem(409, "Started already", f"trial {there.pk} already asks this: open it")
        return there
    if Trial.objects.filter(ended_at=None).count() >= MOST_OPEN:
        raise Problem(409, "Too many trials", f"{MOST_OPEN} trials are running: stop some of them first")
    seats = check_asked(asked)
    question = msgspec.structs.replace(asked.question, seed=secrets.randbelow(SEEDS))
    trial = Trial.objects.create(
        title=asked.title,
        question=msgspec.to_builtins(question),
        seen=digest,
        clip_id=asked.clip,
        volume=asked.volume,
        because=asked.because,
        begins=asked.begins,
        created_by=user,
    )
    TrialSeat.objects.bulk_create(TrialSeat(trial=trial, seat=seat) for seat in seats)
    detail = {"title": trial.title, "seats": sorted(asked.seats), "question": trial.question}
    record(user.username, "start trial", f"trial {trial.pk}", **detail)
    advance_trial_soon(trial.pk)
    return trial


def check_asked(asked: Asked) -> list[Seat]:
    """The seats. Raises Problem for a question that cannot be answered, or not on these seats."""
    try:
        check_question(asked.question)
    except DesignError as why:
        raise Problem(422, "No trial", str(why)) from why
    _check_job(asked)
    seats = list(Seat.objects.active().filter(name__in=asked.seats).order_by("name"))
    if missing := {*asked.seats} - {seat.name for seat in seats}:
        raise Problem(422, "No such seat", f"there is no seat {', '.join(sorted(missing))}")
    if whys := unfit(asked.question, seats):
        raise Problem(422, "Not on these seats", "; ".join(whys[:6]))
    return seats


def _check_job(asked: Asked) -> None:
    job, beside = asked.question.job, asked.question.beside
    decodes = "decode" in (job, beside and beside.job)
    if decodes and not Clip.objects.filter(pk=asked.clip or 0).exists():
        raise Problem(422, "No clip", "select a reference clip for decoding")
    if job == "disk" and not asked.volume:
        raise Problem(422, "No volume", "select a volume, such as v1")
    if not decodes and asked.clip is not None:
        raise Problem(422, "No use for a clip", f"clips are for decoding; this trial measures {job}")


def unfit(question: Question, seats: Sequence[Seat]) -> list[str]:
    """Why some of its conditions cannot be set on some of these seats."""
    surveys, spoken = latest_surveys(seat.pk for seat in seats), dialects()
    whys = list[str]()
    for seat in seats:
        survey = surveys.get(seat.pk)
        if survey is None:
            whys.append(f"{seat.name} has sent no survey")
            continue
        if question.by_hand is None and question.job not in jobs_alone(survey.agent.host):
            whys.append(f"the agent of {seat.name} does not {question.job} automatically: choose manual runs")
        for condition in question.conditions:
            try:
                changes_for(condition.sets, survey, spoken)
            except NormantError as why:
                whys.append(str(why))
    return list(dict.fromkeys(whys))


RUNS_SINCE, BY_HAND_SINCE, BESIDE_SINCE = map(Version.parse, ("0.5.0", "0.6.0", "0.7.0"))


def outdated(question: Question, seats: Sequence[Seat]) -> list[str]:
    """Which of these seats' agents are too old for it: they refuse such orders."""
    needed = BY_HAND_SINCE if question.by_hand else BESIDE_SINCE if question.beside else RUNS_SINCE
    surveys = latest_surveys(seat.pk for seat in seats)
    return [
        f"the agent of {seat.name} is {survey.agent.version}, and refuses this: {needed} is needed"
        for seat in seats
        if (survey := surveys.get(seat.pk)) and not survey.agent.is_at_least(needed)
    ]
