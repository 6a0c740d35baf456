"""The report of a rollout: what was intended, and what became of it on every seat."""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

import msgspec

from ..base.wording import counted
from ..plan.changes import PlannedChange
from ..plan.plan import SeatPlan

FORMAT = "normant-rollout-report/1"


class ReportedChange(msgspec.Struct, frozen=True):
    """One change: intended before and after, native, and what the seat read back; `outcome` empty where none came."""

    setting: str
    title: str
    app: str | None
    file: str
    at: str
    before: str
    after: str
    shown_before: str
    shown_after: str
    read_back: str | None
    outcome: str
    message: str


class ReportedSeat(msgspec.Struct, frozen=True):
    """What became of one seat; moments in ISO 8601, `closed` the applications that had to be.

    `measured`: a canary's runs before and after its change, and what they show.
    """

    seat: str
    room: str
    wave: int
    state: str
    message: str
    begun: str | None
    ended: str | None
    closed: tuple[str, ...]
    changes: tuple[ReportedChange, ...]
    left: tuple[dict[str, Any], ...]
    measured: dict[str, Any] | None = None


class Report(msgspec.Struct, frozen=True):
    """The whole report. Its SHA-256 over these canonical bytes is what the ledger holds."""

    rollout: int
    title: str
    kind: str
    of: int | None
    state: str
    reason: str
    by: str
    approved_by: str | None
    begun: str
    ended: str | None
    terms: dict[str, Any]
    sentence: str
    seats: tuple[ReportedSeat, ...]
    put_back_by: tuple[dict[str, Any], ...]
    errands: tuple[dict[str, Any], ...] = ()
    format: str = FORMAT


Receipts = Mapping[tuple[str, str | None], tuple[str, dict[str, Any]]]  # by setting and application


def canonical(report: Report) -> bytes:
    """The report's bytes: keys sorted, so that the same report always has the same digest."""
    return msgspec.json.format(msgspec.json.encode(report, order="deterministic"), indent=1) + b"\n"


def seat_report(plan: SeatPlan, results: Receipts, **about: Any) -> ReportedSeat:
    """One seat, with what its agent said of each change: (outcome of the order, result of the change)."""
    changes = tuple(_change(change, results.get((change.setting, change.app))) for change in plan.changes)
    left = tuple({"setting": o.setting, "app": o.app, "why": o.why, "errand": o.errand} for o in plan.left)
    return ReportedSeat(seat=plan.seat, closed=plan.closes, changes=changes, left=left, **about)


def _ended(seats: Sequence[ReportedSeat]) -> str:
    """`12 settled, one stopped`"""
    counts = Counter(seat.state for seat in seats)
    ended = [f"{counts[state]:,} {state}" for state in ("settled", "stopped", "halted") if counts[state]]
    return ", ".join(ended) or "no seats have finished"


def sentence(seats: Iterable[ReportedSeat]) -> str:
    """`Of 14 seats 12 settled, one stopped, one was put back; 31 changes, each read back as it was asked for.`"""
    known = list(seats)
    parts = _ended(known)
    changes = [change for seat in known for change in seat.changes]
    good = sum(change.outcome == "done" for change in changes)
    many = counted(len(changes), "change")
    read = "each verified" if good == len(changes) else f"{good:,} of them verified"
    return f"{counted(len(known), 'seat')}: {parts}; {many}, {read}."


def rows(report: Report) -> Iterator[dict[str, Any]]:
    """A row for each change of each seat, for tables; a seat without changes has one as well."""
    for seat in report.seats:
        about = {
            "rollout": report.rollout,
            "seat": seat.seat,
            "room": seat.room,
            "wave": seat.wave,
            "state": seat.state,
            "message": seat.message,
            "begun": seat.begun,
            "ended": seat.ended,
            "closed": " ".join(seat.closed),
        }
        for change in seat.changes:
            yield {**about, **{f"change_{key}": value for key, value in msgspec.structs.asdict(change).items()}}
        if not seat.changes:
            yield about


def _change(change: PlannedChange, outcome_and_result: tuple[str, dict[str, Any]] | None) -> ReportedChange:
    outcome, result = outcome_and_result or ("", {})
    return ReportedChange(
        setting=change.setting,
        title=change.title,
        app=change.app,
        file=change.file,
        at=change.at,
        before=change.before,
        after=change.after,
        shown_before=change.shown_before,
        shown_after=change.shown_after,
        read_back=result.get("after"),
        outcome=str(result.get("outcome") or outcome),
        message=str(result.get("message") or ""),
    )
