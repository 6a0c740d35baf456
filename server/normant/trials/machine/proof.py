"""Whether GPUs worked in the runs of trials: of every run, and of those in which they should have and did not."""

import datetime as dt
from collections.abc import Iterator
from typing import Any

import msgspec
from django.utils import timezone

from normant.seats.views_of import survey_at
from normant_core.base.quantities import Value
from normant_core.catalogue.settings import catalogue
from normant_core.measure.machine.proof import DECODE, Proof, Ran, proofs
from normant_core.measure.question import sets_of
from normant_core.orders.samples import Samples
from normant_core.seat.survey import Key

from ..models import Run

KEPT = dt.timedelta(days=14)  # for which a run says something of its seat
LATEST = 400  # runs that are looked at, the newest first


def proof_of(run: Run) -> list[Proof]:
    """Whether the GPUs that were set to work during a run did, by the settings of its condition."""
    survey, trial = survey_at(run.of.seat, run.ended_at), run.of.trial
    if run.samples is None or survey is None or trial.core_question.job == "disk":
        return []
    samples = msgspec.convert(run.samples, Samples)
    if trial.core_question.job == "decode":  # nothing is drawn, and what decodes is the condition's own device
        codec, device = trial.clip.codec if trial.clip else "", _device_of(run)
        lists = any(gpu.id == device and codec in (gpu.decode or ()) for gpu in survey.facts.gpus or ())
        asked: dict[Key, Value] = {(DECODE, None): device} if lists else {}  # of another nothing is promised
        return proofs(Ran(samples, survey.facts, asked, codec))
    set_then = {(s.setting, s.app): s.value for s in sets_of(trial.core_question, run.condition)}
    readings = {**survey.values(), **{key: catalogue()[key[0]].parse(value) for key, value in set_then.items()}}
    apps = {app for _, app in set_then} - {None}
    of_apps = {key: value for key, value in readings.items() if not apps or key[1] in (*apps, None)}
    return proofs(Ran(samples, survey.facts, of_apps))


def _device_of(run: Run) -> str:
    conditions = run.of.trial.core_question.conditions
    return next((condition.device for condition in conditions if condition.name == run.condition), "")


def idle_in(run: Run) -> list[dict[str, Any]]:
    """What did not work though it should have, while the processor did it all: to be kept with the run."""
    return [msgspec.to_builtins(proof) for proof in proof_of(run) if proof.causes]


def idle_gpus() -> Iterator[tuple[Run, dict[str, Any]]]:
    """What is to be said of the newest run of each seat by each job, of those for which nothing was set."""
    since, spoken_of = timezone.now() - KEPT, set[tuple[int, str]]()
    runs = Run.objects.filter(ended_at__gt=since, samples__isnull=False).select_related("of__seat", "of__trial")
    for run in runs.filter(of__seat__retired_at=None).defer("samples").order_by("-ended_at")[:LATEST]:
        if sets_of(run.of.trial.core_question, run.condition):
            continue  # that is the condition's doing
        key = run.of.seat_id, run.of.trial.core_question.job
        if key not in spoken_of:
            spoken_of.add(key)
            yield from ((run, proof) for proof in run.idle)
