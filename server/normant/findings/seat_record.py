"""The whole record of one seat: facts, every reading by family with its norm, what could not be read."""

import datetime as dt
from typing import Any

import msgspec

from normant.seats.floor import seats_on_floor
from normant.seats.models import Reading, Seat
from normant.seats.views_of import survey_at, view_of
from normant.standards.current import current_edition, current_judge
from normant_core.catalogue import catalogue
from normant_core.drift import Verdict, View
from normant_core.levels import in_words
from normant_core.machine import budget, flows
from normant_core.report import origin

from .models import Finding

Key = tuple[str, str | None]


_NO_NORM: dict[str, Any] = {
    "status": "no-norm",
    "severity": "",
    "distance": None,
    "norm": "",
    "is_rule": False,
    "origin": "",
    "chain": [],
    "fix": "",
    "because": "",
    "steps": [],
    "reason": "",
}


_NO_SURVEY: dict[str, Any] = {
    "edition": None,
    "facts": None,
    "families": [],
    "errors": [],
    "stores": [],
    "activity": None,
    "flows": [],
    "budget": None,
}


def seat_record(seat: Seat, at: dt.datetime | None = None) -> dict[str, Any]:
    """What the seat view shows, as plain values; `at` is a past moment, judged by the standard of today."""
    head = {**next(seats_on_floor(Seat.objects.filter(pk=seat.pk))), "at": at}
    survey = survey_at(seat, at)
    if survey is None:
        return {**head, **_NO_SURVEY}
    edition = current_edition()
    plain = msgspec.to_builtins
    view = view_of(seat, survey, at)
    return {
        **head,
        "taken_at": head["taken_at"] if at is None else survey.taken_at,
        "edition": edition.number if edition else None,
        "facts": plain(survey.facts),
        "families": _families(seat, view, at),
        "errors": plain(view.errors),
        "stores": plain(survey.stores),
        "activity": plain(survey.activity),
        "flows": plain(flows(view.facts, view.readings)),
        "budget": plain(budget(view.facts, view.readings)),
    }


def _families(seat: Seat, view: View, at: dt.datetime | None) -> list[dict[str, Any]]:
    judge = current_judge()
    verdicts = judge.verdicts(view, every=True) if judge else []
    by_key: dict[Key, Verdict] = {verdict.key: verdict for verdict in verdicts}
    held = Reading.objects.current() if at is None else Reading.objects.at(at)
    readings = {(r.setting, r.app or None): r for r in held.filter(seat=seat)}
    findings = {(f.setting, f.app or None): f for f in Finding.objects.open().filter(seat=seat)} if at is None else {}
    known = catalogue()
    place = {key: number for number, key in enumerate(known.settings)}
    keys = sorted({*by_key, *readings}, key=lambda key: (place[key[0]], key[1] or ""))
    rows = [(known[key[0]].family, _row(key, by_key.get(key), readings.get(key), findings.get(key))) for key in keys]
    return [
        {"family": family, "title": title, "rows": [row for of, row in rows if of == family]}
        for family, title in known.families.items()
        if any(of == family for of, _ in rows)
    ]


def _row(key: Key, verdict: Verdict | None, reading: Reading | None, finding: Finding | None) -> dict[str, Any]:
    setting = catalogue()[key[0]]
    shown = setting.show(setting.parse(reading.value)) if reading else "unread"
    row: dict[str, Any] = {
        "setting": setting.key,
        "title": setting.title,
        "help": setting.help,
        "app": key[1],
        "reading": verdict.reading_shown if verdict else shown,
        "since": reading.since if reading else None,
        "cause": reading.cause if reading else None,
        "entered_by": reading.entered_by if reading else "",
        "native": reading.native if reading else None,
        "finding": finding.pk if finding else None,
        "remote": setting.remote,
        "words": f"{setting.title} is {shown}; no rule speaks of it",
    }
    return {**_NO_NORM, **row, **(_norm(verdict) if verdict else {})}


def _norm(verdict: Verdict) -> dict[str, Any]:
    return {
        "status": verdict.status,
        "severity": verdict.severity,
        "distance": verdict.distance,
        "words": in_words(verdict),
        "norm": verdict.norm.rule or verdict.norm.sentence,
        "is_rule": bool(verdict.norm.rule),
        "origin": origin(verdict),
        "chain": msgspec.to_builtins(verdict.chain),
        "fix": verdict.fix_shown,
        "because": verdict.because,
        "steps": [{"part": part, "result": result} for part, result in verdict.steps],
        "reason": verdict.reason,
    }
