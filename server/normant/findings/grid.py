"""The grid of drift: every setting on every seat, and what the cells of one cause are."""

import base64
import datetime as dt
from collections.abc import Collection, Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Any

import numpy as np
from django.utils import timezone

from normant.seats.floor import places_of
from normant.seats.views_of import views_at
from normant.standards.current import current_edition, current_judge
from normant_core.base.wording import counted
from normant_core.catalogue.settings import catalogue
from normant_core.house.causes import Cause, causes
from normant_core.house.cells import OFF, UNREAD, WAIVED, Cells, cells
from normant_core.house.columns import House
from normant_core.house.marks import NO_NORM
from normant_core.house.verdicts import Standing
from normant_core.house.waivers import rows_waived
from normant_core.house.waivers import waived as with_waivers
from normant_core.judging.levels import in_words
from normant_core.seat.survey import Key

from .models import Finding
from .resident import resident
from .waiving import waivers_at

STATUS = 7  # the bits of a cell that say how it stands


@contextmanager
def standing_at(at: dt.datetime | None) -> Iterator[Standing | None]:
    """How the house stands, or stood at a moment, under the edition of today."""
    if at is None:
        with resident.standing() as standing:
            yield standing
        return
    judge = current_judge()
    yield Standing(House(view for _, view in views_at(at)), judge) if judge else None


def grid(at: dt.datetime | None = None) -> dict[str, Any]:
    """Settings by family, seats as they stand on the floor, a byte for each of them together, and the causes."""
    edition = current_edition()
    head = {"edition": edition[0] if edition else None, "at": at}
    with standing_at(at) as standing:
        if standing is None:
            return {**head, "sentence": "No standard has been published yet.", **_EMPTY}
        return {**head, **_drawn(standing, at or timezone.now())}


_EMPTY: dict[str, Any] = {"rows": [], "seats": [], "causes": [], "cells": "", "cause_of": ""}


def _drawn(standing: Standing, moment: dt.datetime) -> dict[str, Any]:
    waived = rows_waived(standing, waivers_at(moment))
    order = _order(standing.house)
    known = {key: place for place, key in enumerate(catalogue().settings)}
    keys = sorted(standing.cases, key=lambda key: (known[key[0]], key[1] or ""))
    drawn = [cells(standing.cases[key], waived.get(key, ()))[order] for key in keys]
    causes_found = causes(standing, waived)
    off = np.array([np.count_nonzero(row & STATUS == OFF) for row in drawn], dtype=np.int64)
    return {
        "sentence": _sentence(int(off.sum()), drawn, len(causes_found)),
        "rows": [_row(key, row) for key, row in zip(keys, drawn, strict=True)],
        "seats": [_seat(standing.house, row) for row in order.tolist()],
        "causes": [_cause(cause, keys) for cause in causes_found],
        "cells": _packed(b"".join(row.tobytes() for row in drawn)),
        "cause_of": _packed(_cause_of(causes_found, keys, drawn, order)),
    }


def _order(house: House) -> Any:
    """The rows of the house as its seats stand on the floor."""
    place = {name: number for number, name in enumerate(places_of())}
    return np.array(
        sorted(range(len(house)), key=lambda row: place.get(house.rows[row].seat.name, len(place))), dtype=int
    )


def _row(key: Key, row: Cells) -> dict[str, Any]:
    setting = catalogue()[key[0]]
    status = row & STATUS
    return {
        "setting": key[0],
        "app": key[1],
        "title": setting.title,
        "family": setting.family,
        "family_title": catalogue().families[setting.family],
        "remote": setting.remote,
        "off": int(np.count_nonzero(status == OFF)),
        "unread": int(np.count_nonzero(status == UNREAD)),
        "waived": int(np.count_nonzero(status == WAIVED)),
    }


def _seat(house: House, row: int) -> dict[str, Any]:
    seat = house.rows[row].seat
    return {
        "name": seat.name,
        "room": seat.room or "",
        "role": seat.role or "",
        "production": seat.production or "",
        "hardware_class": seat.hardware_class or "",
    }


def _cause(cause: Cause, keys: Sequence[Key]) -> dict[str, Any]:
    return {
        "title": cause.title,
        "severity": cause.case.rule(cause.mark).text.severity,
        "because": cause.case.rule(cause.mark).text.because,
        "row": keys.index(cause.case.key),
        "seats": len(cause.rows),
    }


def _cause_of(causes_found: Sequence[Cause], keys: Sequence[Key], drawn: Sequence[Cells], order: Any) -> bytes:
    """The number of the cause of each cell that is off norm, row by row: two bytes each, the lower first."""
    by_key: dict[Key, list[int]] = {}
    for place, cause in enumerate(causes_found):
        by_key.setdefault(cause.case.key, []).append(place)
    parts = []
    for key, row in zip(keys, drawn, strict=True):
        of = np.zeros(len(order), dtype="<u2")
        for place in by_key.get(key, ()):
            of[causes_found[place].rows] = place
        parts.append(of[order][row & STATUS == OFF].tobytes())
    return b"".join(parts)


def _packed(raw: bytes) -> str:
    return base64.b64encode(raw).decode()


def _sentence(off: int, drawn: Sequence[Cells], causes_found: int) -> str:
    """`14 readings off norm on 11 seats, from 7 causes.`"""
    if not off:
        return "Every known setting is in norm."
    seats = int(np.count_nonzero(np.any(np.array(drawn) & STATUS == OFF, axis=0)))
    readings = counted(off, "reading")
    return f"{readings} off norm on {counted(seats, 'seat')}, from {counted(causes_found, 'cause')}."


def cell_account(seat: str, key: Key, at: dt.datetime | None) -> dict[str, Any] | None:
    """What one cell says in words, and the finding behind it; None where there is no such reading."""
    with standing_at(at) as standing:
        rows = standing.house.numbers({seat}) if standing else []
        case = standing.cases.get(key) if standing else None
        if standing is None or case is None or not rows or case.mark(rows[0]) == NO_NORM:
            return None
        view = standing.house.view(rows[0])
        verdict = standing.judge.explain(view, *key)
    if verdict is None:
        return None
    verdict = with_waivers([verdict], view.seat, waivers_at(at or timezone.now()))[0]
    finding = None if at else Finding.objects.open().filter(seat__name=seat, setting=key[0], app=key[1] or "").first()
    return {
        "status": verdict.status,
        "words": in_words(verdict),
        "fix": verdict.fix_shown,
        "because": verdict.because,
        "layer": verdict.layer,
        "finding": finding.pk if finding else None,
        "since": finding.opened_at if finding else None,
        "opened_by": finding.opened_by if finding else None,
    }


def findings_at(places: Sequence[tuple[Key, Collection[str]]]) -> list[dict[str, Any]]:
    """The findings that want something at these places: seats by setting and application."""
    wanted: Mapping[Key, set[str]] = {key: {*seats} for key, seats in places}
    rows = Finding.objects.wanting().filter(setting__in={key[0] for key in wanted})
    return [
        {"id": pk, "seat": seat, "setting": setting, "app": app or None, "title": catalogue()[setting].title}
        | {"remote": catalogue()[setting].remote}
        for pk, seat, setting, app in rows.values_list("pk", "seat__name", "setting", "app")
        if seat in wanted.get((setting, app or None), ())
    ]
