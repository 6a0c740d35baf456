"""The whole record of one seat: facts, every reading by family with its norm, what could not be read."""

import datetime as dt
from collections.abc import Iterable
from typing import Any

import msgspec
from django.utils import timezone

from normant.dialects.current import dialects
from normant.seats.floor import clock_behind, seat_on_floor
from normant.seats.models import Reading, Seat
from normant.seats.views_of import merged, survey_at
from normant.standards.current import current_edition
from normant_core.catalogue.settings import catalogue
from normant_core.house.waivers import waived
from normant_core.judging.judge import Verdict
from normant_core.judging.levels import in_words
from normant_core.seat.picture import budget, flows
from normant_core.seat.survey import Key
from normant_core.words.formats import origin

from .models import Finding, Waiver
from .waiving import waivers_at

_NO_NORM: dict[str, Any] = {
    "status": "no-norm",
    "severity": "",
    "distance": None,
    "norm": "",
    "rule": "",
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
    head = {**seat_on_floor(seat), "at": at, "clock_behind": clock_behind(seat)}
    survey = survey_at(seat, at)
    if survey is None:
        return {**head, **_NO_SURVEY}
    number, judge = current_edition() or (None, None)
    plain = msgspec.to_builtins
    held = list((Reading.objects.current() if at is None else Reading.objects.at(at)).filter(seat=seat))
    view = merged(seat, survey, (r for r in held if r.cause == "by hand"), at or timezone.now())
    judged = judge.verdicts(view, every=True) if judge else []
    verdicts = waived(judged, view.seat, waivers_at(at or timezone.now()))
    findings = Finding.objects.open().filter(seat=seat).select_related("waiver") if at is None else ()
    return {
        **head,
        "taken_at": head["taken_at"] if at is None else survey.taken_at,
        "edition": number,
        "facts": plain(survey.facts),
        "families": _families(verdicts, held, findings),
        "errors": plain(view.errors),
        "stores": plain(survey.stores),
        "activity": plain(survey.activity),
        "flows": plain(flows(view.facts, view.readings)),
        "budget": plain(budget(view.facts, view.readings, _pools(view.readings))),
    }


def _pools(readings: Iterable[Key]) -> dict[str, str]:
    """The pool of each application, where several of the seat may share one."""
    if sum(setting == "memory.preview_pool" for setting, _ in readings) < 2:
        return {}
    return {dialect.app: dialect.pool for dialect in dialects() if dialect.pool}


def _families(
    verdicts: Iterable[Verdict], held: Iterable[Reading], findings: Iterable[Finding]
) -> list[dict[str, Any]]:
    by_key: dict[Key, Verdict] = {verdict.key: verdict for verdict in verdicts}
    readings = {(r.setting, r.app or None): r for r in held}
    findings_by_key = {(f.setting, f.app or None): f for f in findings}
    known = catalogue()
    place = {key: number for number, key in enumerate(known.settings)}
    keys = sorted({*by_key, *readings}, key=lambda key: (place[key[0]], key[1] or ""))
    rows = [
        (known[key[0]].family, _row(key, by_key.get(key), readings.get(key), findings_by_key.get(key))) for key in keys
    ]
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
        "waiver": _held(finding.waiver) if finding and finding.waiver else None,
        "remote": setting.remote,
        "words": f"{setting.title} is {shown}; no rule applies",
    }
    return {**_NO_NORM, **row, **(_norm(verdict) if verdict else {})}


def _held(waiver: Waiver) -> dict[str, Any]:
    return {"id": waiver.pk, "ends_at": waiver.ends_at, "until_production": waiver.until_production}


def _norm(verdict: Verdict) -> dict[str, Any]:
    return {
        "status": verdict.status,
        "severity": verdict.severity,
        "distance": verdict.distance,
        "words": in_words(verdict),
        "norm": verdict.norm.sentence,
        "rule": verdict.norm.rule,
        "origin": origin(verdict),
        "chain": msgspec.to_builtins(verdict.chain),
        "fix": verdict.fix_shown,
        "because": verdict.because,
        "steps": [{"part": part, "result": result} for part, result in verdict.steps],
        "reason": verdict.reason,
    }
