"""What a house has measured, in its archive: clips, trials with every run, timelines, and what effects cost."""

import hashlib
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

import msgspec
import orjson
from django.utils import timezone

from normant.accounts.models import User
from normant.seats.models import Seat
from normant.timelines.models import Costs, Timeline
from normant.timelines.services.keep_timeline import keep_costs
from normant.trials.models import Clip, Run, Trial, TrialSeat
from normant.trials.services.advance_trial import keep_shown, runs_of
from normant_core.measure.holding import HoldsFor
from normant_core.measure.machine.laid import Laid
from normant_core.measure.machine.playing import Media
from normant_core.measure.question import Question, check_question, is_condition
from normant_core.measure.trial import stand
from normant_core.orders.kinds import LIMIT_CLIP
from normant_core.orders.samples import Samples

from .parts import lines, moment_of

CLIPS, TRIALS, RUNS, TIMELINES, EFFECTS = (
    "clips.ndjson",
    "trials.ndjson",
    "runs.ndjson",
    "timelines.ndjson",
    "effects.toml",
)
CLIP = ("name", "codec", "width", "height", "size", "digest", "kept_by")
TRIAL = ("title", "question", "volume", "because", "state", "reason", "holds_for")
RUN = ("block", "place", "condition", "figure", "thrown", "harmful", "beside", "samples", "idle")
TIMELINE = ("name", "digest", "media", "rate", "clips", "seconds", "kept_by")
OVER = {Trial.State.HALTED, Trial.State.ENDED}
MOVED = "the house moved"


def clip_part(digest: str) -> str:
    """The part of the archive that holds a clip."""
    return f"clips/{digest}"


def pack_measured(archive: zipfile.ZipFile) -> None:
    """Write it, of the moment of the transaction that the caller holds."""
    for clip in Clip.objects.order_by("id"):
        archive.writestr(clip_part(clip.digest), bytes(clip.body))
    archive.writestr(CLIPS, lines(Clip.objects.order_by("id").values(*CLIP)))
    archive.writestr(TRIALS, lines(_trials()))
    archive.writestr(RUNS, lines(_runs()))
    archive.writestr(TIMELINES, lines(_timelines()))
    if costs := Costs.objects.first():
        archive.writestr(EFFECTS, costs.text)


def _trials() -> Iterator[dict[str, Any]]:
    trials = Trial.objects.order_by("id").select_related("clip", "created_by").defer("clip__body")
    for trial in trials.prefetch_related("seats__seat"):
        yield {
            "number": trial.pk,
            **{name: getattr(trial, name) for name in TRIAL},
            "clip": trial.clip.digest if trial.clip else None,
            "created_by": trial.created_by.username,
            "created_at": trial.created_at,
            "ended_at": trial.ended_at,
            "seats": [{"seat": on.seat.name, "state": on.state, "ended_at": on.ended_at} for on in trial.seats.all()],
        }


def _runs() -> Iterator[dict[str, Any]]:
    rows = Run.objects.order_by("id").select_related("of__seat")
    for run in rows.iterator(chunk_size=500):
        yield {
            "trial": run.of.trial_id,
            "seat": run.of.seat.name,
            **{name: getattr(run, name) for name in RUN},
            "ended_at": run.ended_at,
        }


def _timelines() -> Iterator[dict[str, Any]]:
    for timeline in Timeline.objects.order_by("id"):
        yield {**{name: getattr(timeline, name) for name in TIMELINE}, "laid": orjson.Fragment(bytes(timeline.body))}


def take_clips(rows: Iterable[dict[str, Any]], archive: zipfile.ZipFile) -> None:
    """Each verified. Raises ValueError."""
    for row in rows:
        body = archive.read(clip_part(row["digest"]))
        if hashlib.sha256(body).hexdigest() != row["digest"] or not 0 < len(body) <= LIMIT_CLIP:
            raise ValueError(f"{clip_part(row['digest'])} is not the clip that its name says")
        Clip.objects.create(**{**{name: row[name] for name in CLIP}, "size": len(body), "body": body})


def take_trials(rows: Iterable[dict[str, Any]], seats: Mapping[str, Seat], actor: str) -> dict[int, Trial]:
    """By the numbers that they had; seats that are not in the register are left out, and so are trials without any."""
    by, made = User.objects.get(username=actor), dict[int, Trial]()
    clips = {clip.digest: clip for clip in Clip.objects.defer("body")}
    for row in rows:
        question = msgspec.convert(row["question"], Question)
        check_question(question)
        holds = msgspec.to_builtins(msgspec.convert(row["holds_for"], HoldsFor)) if row["holds_for"] else {}
        over = row["state"] in OVER
        trial = Trial(
            **{name: row[name] for name in ("title", "volume", "because")},
            question=msgspec.to_builtins(question),
            holds_for=holds,
            clip=clips[row["clip"]] if row["clip"] else None,
            state=row["state"] if over else Trial.State.HALTED,
            reason=row["reason"] if over else MOVED,
            seen=f"taken in {row['number']}"[:64],
            created_by=by,
            ended_at=moment_of(row["ended_at"]) if over else timezone.now(),
        )
        trial.clean_fields(exclude=["clip", "created_by", "begins", "shown", "holds_for", "question"])
        on = [part for part in row["seats"] if part["seat"] in seats]
        if not on:
            continue
        trial.save()
        Trial.objects.filter(pk=trial.pk).update(created_at=moment_of(row["created_at"]))
        TrialSeat.objects.bulk_create(_seat(trial, part, seats) for part in on)
        made[int(row["number"])] = trial
    return made


def _seat(trial: Trial, part: Mapping[str, Any], seats: Mapping[str, Seat]) -> TrialSeat:
    ended = part["state"] if part["state"] in ("done", "stopped", "halted") else "halted"
    at = moment_of(part["ended_at"]) if part["ended_at"] else trial.ended_at
    return TrialSeat(trial=trial, seat=seats[part["seat"]], state=ended, begun_at=trial.ended_at, ended_at=at)


def take_runs(rows: Iterable[dict[str, Any]], trials: Mapping[int, Trial]) -> int:
    """Every run that came to a figure; what they show is worked out anew."""
    on = {(row.trial_id, row.seat.name): row for row in TrialSeat.objects.select_related("seat", "trial")}
    made = list[Run]()
    for row in rows:
        trial = trials.get(row["trial"])
        seat = on.get((trial.pk, row["seat"])) if trial else None
        if seat is None or row["figure"] is None:
            continue
        if not is_condition(seat.trial.core_question, str(row["condition"])):
            raise ValueError(f"trial {row['trial']} has no condition {str(row['condition'])[:80]!r}")
        samples = msgspec.to_builtins(msgspec.convert(row["samples"], Samples)) if row["samples"] else None
        figures = msgspec.convert([*row["thrown"], row["figure"]], list[float])
        beside = msgspec.convert(row.get("beside"), float | None)
        if wrong := [figure for figure in (*figures, *([] if beside is None else [beside])) if not 0 < figure < 1e15]:
            raise ValueError(f"{wrong[0]} is no figure of a run")
        fields = {"block": int(row["block"]), "place": int(row["place"]), "condition": str(row["condition"])}
        ended = moment_of(row["ended_at"])
        run = Run(of=seat, **fields, thrown=figures[:-1], figure=figures[-1], samples=samples, ended_at=ended)
        run.harmful, run.beside = bool(row["harmful"]), beside
        run.clean_fields(exclude=["of", "samples", "thrown", "idle", "takes"])
        made.append(run)
    Run.objects.bulk_create(made)
    for trial in trials.values():
        done = list(trial.seats.filter(state="done").values_list("seat__name", flat=True))
        keep_shown(trial, stand(trial.core_question, runs_of(trial), done))
    return len(made)


def take_timelines(rows: Iterable[dict[str, Any]]) -> None:
    """Each as core reads it."""
    for row in rows:
        laid, media = msgspec.convert(row["laid"], Laid), msgspec.convert(row["media"], dict[str, Media])
        laid.placed()
        about = {**{name: row[name] for name in TIMELINE}, "media": msgspec.to_builtins(media), "rate": laid.rate}
        timeline = Timeline(**about, body=msgspec.json.encode(laid))
        timeline.clean_fields(exclude=["media"])
        timeline.save()


def take_effects(text: bytes, actor: str) -> None:
    """What effects cost. Raises Problem."""
    keep_costs(text.decode("utf-8"), 0, actor)
