"""The house follows an edition: findings opened, closed and told anew, levels drawn, some hundreds of seats at a time.

Seats that changed meanwhile are judged one by one: what is known of them here is already old.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import msgspec
from django.db import connection, transaction
from django.db.models import Value
from django.db.models.functions import Greatest
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.seats.models import Presence, Seat, Survey
from normant.standards.current import judge_of
from normant.standards.models import Edition
from normant_core.house.columns import House
from normant_core.house.explain import Telling, keys_that_moved
from normant_core.house.verdicts import Case, Standing
from normant_core.judging.judge import Judge
from normant_core.judging.levels import Level
from normant_core.seat.survey import Key

from ..later import tell_musts_later
from ..models import Finding
from ..resident import resident
from ..waiving import waivers_at
from .evaluate import evaluate

AT_ONCE = 400  # seats in one transaction: their surveys wait while it lasts


@dataclass(frozen=True, slots=True)
class Judged:
    """The house as it stands under the edition, and what can have changed since the last one that it followed."""

    telling: Telling
    moved: set[Key]
    surveys: dict[str, int]
    off: dict[int, list[Case]]
    levels: list[list[Level]]
    counts: list[int]
    at: dt.datetime


def follow() -> None:
    """Bring every seat in line with the edition in force; run twice it does no harm."""
    edition = Edition.objects.order_by("-number").first()
    if edition is None or edition.followed_at:
        return
    judge, rows = judge_of(edition.pk), Edition.objects.filter(pk=edition.pk)
    with resident.house() as house:
        judged = _judged(house, judge)
        names = [row.seat.name for row in house.rows]
        rows.update(judged=0, of=len(names))
        later = list[str]()
        for start in range(0, len(names), AT_ONCE):
            part = range(start, min(start + AT_ONCE, len(names)))
            later += _settle(judged, part)
            rows.update(judged=part.stop)
            tell("standard", str(edition.number))
    others = Seat.objects.active().filter(survey__latest=True)
    for seat in others.filter(name__in=later) | others.exclude(name__in=names):
        evaluate(seat, judge)
    rows.update(followed_at=timezone.now())
    tell_musts_later()
    tell("standard", str(edition.number))


def _judged(house: House, judge: Judge) -> Judged:
    last = Edition.objects.exclude(followed_at=None).first()
    now = timezone.now()
    before = Standing(house, judge_of(last.pk)) if last else None
    standing = Standing(house, judge, before)
    telling = Telling(standing, waivers_at(now))
    off: dict[int, list[Case]] = defaultdict(list)
    for case_found in standing.with_status():
        for row in case_found.rows:
            off[row].append(case_found.case)
    moved = keys_that_moved(before, standing)
    return Judged(telling, moved, resident.surveys(), off, telling.levels(), telling.off_norm(), now)


@transaction.atomic
def _settle(judged: Judged, part: range) -> list[str]:
    """Some seats in line with the edition; gives back those that changed meanwhile."""
    rows = {judged.telling.standing.house.rows[row].seat.name: row for row in part}
    lock("evaluate", rows)
    seats = dict(Seat.objects.active().filter(name__in=rows).values_list("name", "pk"))
    changed = {*_changed(judged, seats)}
    current = {name: rows[name] for name in seats if name not in changed}
    by_seat = {seats[name]: row for name, row in current.items()}
    staying = _close(judged, by_seat)
    _open(judged, by_seat, staying)
    _draw(judged, by_seat)
    tell("seat", "several")
    return sorted(changed & seats.keys())


def _changed(judged: Judged, seats: dict[str, int]) -> Iterator[str]:
    """Seats with another survey than the one that was judged, or with one that waits to be judged."""
    latest = Survey.objects.filter(latest=True, seat__in=seats.values()).values_list("seat__name", "pk")
    yield from (name for name, survey in latest if judged.surveys.get(name) != survey)
    unjudged = Presence.objects.filter(seat__in=seats.values(), unjudged_since__isnull=False)
    yield from unjudged.values_list("seat__name", flat=True)


def _close(judged: Judged, by_seat: dict[int, int]) -> set[tuple[int, Key]]:
    """Close what is off norm no longer, tell anew what is; gives back which findings stay open."""
    standing, closed, staying = judged.telling.standing, list[int](), set[tuple[int, Key]]()
    renewed = list[tuple[int, Case, int]]()
    open_ = Finding.objects.open().filter(seat__in=by_seat).values_list("pk", "seat_id", "setting", "app", "waiver_id")
    for pk, seat, setting, app, waiver in open_:
        key, row = (setting, app or None), by_seat[seat]
        case = standing.cases.get(key)
        if case is None or case not in judged.off.get(row, ()):
            closed.append(pk)
            continue
        staying.add((seat, key))
        accepted = judged.telling.waiver(key, row)
        if key in judged.moved or waiver != (accepted.id if accepted else None):
            renewed.append((pk, case, row))
    ended = Greatest("opened_at", Value(judged.at))  # clocks differ
    Finding.objects.filter(pk__in=closed).update(closed_at=ended, closed_by="standard")
    _renew(judged, renewed)
    return staying


def _renew(judged: Judged, renewed: Sequence[tuple[int, Case, int]]) -> None:
    if not renewed:
        return
    lines = [judged.telling.verdict(case, row) for _, case, row in renewed]
    waivers = [judged.telling.waiver(case.key, row) for _, case, row in renewed]
    columns = (
        [pk for pk, _, _ in renewed],
        [line.json.decode() for line in lines],
        [line.verdict.severity for line in lines],
        [line.cause for line in lines],
        [waiver.id if waiver else None for waiver in waivers],
    )
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE findings_finding f"
            " SET verdict = d.verdict::jsonb, severity = d.severity, cause = d.cause, waiver_id = d.waiver"
            " FROM unnest(%s::bigint[], %s::text[], %s::text[], %s::text[], %s::bigint[])"
            " AS d(id, verdict, severity, cause, waiver)"
            " WHERE f.id = d.id",
            columns,
        )


def _open(judged: Judged, by_seat: dict[int, int], staying: set[tuple[int, Key]]) -> None:
    telling = judged.telling
    with (
        connection.cursor() as cursor,
        cursor.copy(
            "COPY findings_finding"
            " (seat_id, setting, app, severity, verdict, cause, opened_at, opened_by, closed_by, waiver_id) FROM STDIN"
        ) as copy,
    ):
        for seat, row in by_seat.items():
            for case in judged.off.get(row, ()):
                if (seat, case.key) in staying:
                    continue
                line, waiver = telling.verdict(case, row), telling.waiver(case.key, row)
                setting, app = case.key
                severity, accepted = line.verdict.severity, waiver.id if waiver else None
                of_verdict = (severity, line.json.decode(), line.cause)
                copy.write_row((seat, setting, app or "", *of_verdict, judged.at, "standard", "", accepted))


def _draw(judged: Judged, by_seat: dict[int, int]) -> None:
    """Levels and counts of seats where they are others than before."""
    drawn = dict(Seat.objects.filter(pk__in=by_seat).values_list("pk", "levels"))
    moved = [
        (seat, msgspec.json.encode(judged.levels[row]).decode(), judged.counts[row])
        for seat, row in by_seat.items()
        if msgspec.to_builtins(judged.levels[row]) != drawn.get(seat)
    ]
    if moved:
        with connection.cursor() as cursor:
            cursor.execute(
                "UPDATE seats_seat s SET levels = d.levels::jsonb, off_norm = d.off"
                " FROM unnest(%s::bigint[], %s::text[], %s::int[]) AS d(id, levels, off) WHERE s.id = d.id",
                [list(column) for column in zip(*moved, strict=True)],
            )
