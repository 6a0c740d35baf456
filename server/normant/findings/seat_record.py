"""The whole record of one seat: facts, every reading by family with its norm, what could not be read."""

from typing import Any

import msgspec

from normant.seats.floor import seats_on_floor
from normant.seats.models import Reading, Seat
from normant.seats.views_of import latest_survey, register_of
from normant.standards.current import current_edition, current_judge
from normant_core.catalogue import catalogue
from normant_core.drift import Verdict, View
from normant_core.levels import in_words
from normant_core.report import origin
from normant_core.survey import Survey

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


def seat_record(seat: Seat) -> dict[str, Any]:
    """What the seat view shows, as plain values."""
    head = next(seats_on_floor(Seat.objects.filter(pk=seat.pk)))
    survey = latest_survey(seat)
    if survey is None:
        return {**head, "edition": None, "facts": None, "families": [], "errors": [], "stores": [], "activity": None}
    edition = current_edition()
    plain = msgspec.to_builtins
    return {
        **head,
        "edition": edition.number if edition else None,
        "facts": plain(survey.facts),
        "families": _families(seat, survey),
        "errors": plain(survey.errors),
        "stores": plain(survey.stores),
        "activity": plain(survey.activity),
    }


def _families(seat: Seat, survey: Survey) -> list[dict[str, Any]]:
    judge = current_judge()
    verdicts = judge.verdicts(View.of(survey, register_of(seat)), every=True) if judge else []
    by_key: dict[Key, Verdict] = {verdict.key: verdict for verdict in verdicts}
    readings = {(r.setting, r.app or None): r for r in Reading.objects.current().filter(seat=seat)}
    findings = {(f.setting, f.app or None): f for f in Finding.objects.open().filter(seat=seat)}
    known = catalogue()
    keys = sorted({*by_key, *readings}, key=lambda key: (list(known.settings).index(key[0]), key[1] or ""))
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
