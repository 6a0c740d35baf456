"""Compare a seat with another one, with itself at another moment, or with peers that have no warnings."""

import datetime as dt
from dataclasses import asdict, dataclass
from typing import Any

from django.db.models import Q

from normant.common.local_time import full_words
from normant.common.problems import Problem
from normant.seats.models import Seat, Survey
from normant.seats.views_of import survey_at
from normant.standards.current import current_judge
from normant_core.base.wording import counted
from normant_core.seat.comparison import (
    Machine,
    Readings,
    between,
    between_machines,
    culprit,
    effect_words,
    facts_between,
    machine_of,
    ranked,
    usual,
)
from normant_core.seat.survey import decode

from .models import Finding

PEERS = 40  # as many say as much as all would


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a comparison."""

    name: str
    machine: Machine
    readings: Readings


def compare(seat: Seat, other: Seat | None, *, at: dt.datetime | None, other_at: dt.datetime | None) -> dict[str, Any]:
    """Return what differs between `seat` and `other` at their moments, the likeliest cause first.

    Without `other` the seat is compared with its peers. Raises Problem where a side has no survey, or no peers.
    """
    ours = _side(seat, at)
    peers, kind = _peers(seat)
    machines, readings = [peer.machine for peer in peers], [peer.readings for peer in peers]
    if other is None:
        if not peers:
            raise Problem(
                409,
                "No healthy peers",
                f"every other seat with the role of {seat.name} has critical findings or warnings: select a seat",
            )
        theirs = Side(counted(len(peers), "peer"), usual(machines), usual(readings))
    else:
        theirs = _side(other, other_at)
    settings = between(ours.readings, theirs.readings, peers=readings, measured=_measured())
    parts = between_machines(ours.machine, theirs.machine, peers=machines)
    differences, spoken_of = ranked([*settings, *parts]), {part.setting for part in parts}
    corrections = {} if at else _corrections(seat)
    facts = [
        {"name": name, "mine": here, "theirs": there}
        for name, here, there in facts_between(ours.machine, theirs.machine)
        if name not in spoken_of
    ]
    return {
        "mine": {"seat": seat.name, "at": at},
        "theirs": {"seat": other.name if other else None, "at": other_at, "name": theirs.name},
        "peers": {"names": [peer.name for peer in peers], "kind": kind},
        "sentence": culprit(differences, healthy=len(peers), facts=len(facts)),
        "differences": [
            {
                **asdict(difference),
                "effect": effect_words(difference.score),
                "finding": corrections.get((difference.setting, difference.app)),
            }
            for difference in differences
        ],
        "facts": facts,
        "same": len(ours.readings.keys() & theirs.readings.keys())
        - sum(d.mine is not None and d.theirs is not None for d in settings),
    }


def _corrections(seat: Seat) -> dict[tuple[str, str | None], int]:
    """Return the open findings of a seat that a rollout can correct, by setting and application."""
    rows = Finding.objects.wanting().filter(seat=seat)
    return {(row.setting, row.app or None): row.pk for row in rows if row.verdict.get("fix") is not None}


def _side(seat: Seat, at: dt.datetime | None) -> Side:
    survey = survey_at(seat, at)
    if survey is None:
        when = f" before {full_words(at)}" if at else ""
        raise Problem(409, "Nothing to compare", f"{seat.name} sent no survey{when}")
    return Side(seat.name, machine_of(survey.facts), survey.values())


def _peers(seat: Seat) -> tuple[list[Side], str]:
    """Return seats of the same role without critical findings or warnings, of the same class where there are any."""
    drifted = Finding.objects.open().filter(severity__in=("must", "should")).values("seat")
    healthy = Survey.objects.filter(latest=True, seat__retired_at=None, seat__role=seat.role).exclude(
        Q(seat=seat) | Q(seat__in=drifted)
    )
    alike = healthy.filter(seat__hardware_class=seat.hardware_class)
    same = alike.exists() and bool(seat.hardware_class)
    chosen = (alike if same else healthy).order_by("seat__name")[:PEERS].values_list("seat__name", "body")
    kind = f"{seat.role or 'no role'}, {seat.hardware_class if same else 'any hardware'}"
    surveys = ((name, decode(bytes(body))) for name, body in chosen)
    return [Side(name, machine_of(survey.facts), survey.values()) for name, survey in surveys], kind


def _measured() -> set[str]:
    judge = current_judge()
    return {rule.setting.key for rule in judge.standard.rules if rule.text.evidence == "measured"} if judge else set()
