"""`normant check`: surveys against a standard, from files, without a server."""

import csv
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from normant_core.drift import Judge, Verdict, View
from normant_core.errors import DocumentError, Fault
from normant_core.facts import Seat
from normant_core.rule import Standard
from normant_core.standard import parse_standard
from normant_core.survey import parse_survey

COLUMNS = ("seat", "role", "room", "production")


@dataclass(frozen=True, slots=True)
class Checked:
    """A seat and its verdicts."""

    seat: str
    verdicts: list[Verdict]


def check(standard: Path, surveys: Iterable[Path], register: Path | None, *, every: bool) -> Iterator[Checked]:
    """Verdicts for each survey. Raises DocumentError naming the file, line and column."""
    judge = Judge(load_standard(standard))
    seats = read_register(register) if register else {}
    for path in surveys:
        survey = parse_survey(_bytes(path), str(path))
        seat = seats.get(survey.seat, Seat(survey.seat))
        yield Checked(survey.seat, judge.verdicts(View.of(survey, seat), every=every))


def load_standard(path: Path) -> Standard:
    """Raises DocumentError."""
    raw = _bytes(path)
    try:
        return parse_standard(raw.decode("utf-8"), str(path))
    except UnicodeDecodeError as fault:
        line = raw[: fault.start].count(b"\n") + 1
        told = Fault(f"byte {fault.start} is not UTF-8", line=line, column=1, expected="text in UTF-8")
        raise DocumentError(str(path), [told]) from fault


def read_register(path: Path) -> dict[str, Seat]:
    """Seats by name from a CSV file `seat,role,room,production`, in any order of columns."""
    try:
        lines = _bytes(path).decode("utf-8-sig").splitlines()
    except UnicodeDecodeError as fault:
        raise DocumentError(str(path), [Fault("the register is not text", expected="UTF-8")]) from fault
    rows = csv.DictReader(lines)
    names = rows.fieldnames or []
    if missing := [name for name in COLUMNS if name not in names]:
        told = Fault(f"the register has no column {missing[0]!r}", line=1, column=1, expected=",".join(COLUMNS))
        raise DocumentError(str(path), [told])
    found, faults = dict[str, Seat](), list[Fault]()
    for row in rows:
        name = (row["seat"] or "").strip()
        if not name or None in row or name in found:
            reason = "this seat stands twice" if name in found else "this row has not the columns of the first"
            faults.append(Fault(reason, line=rows.line_num, column=1, expected=",".join(names)))
            continue
        found[name] = Seat(name, *((row[column] or "").strip() or None for column in COLUMNS[1:]))
    if faults:
        raise DocumentError(str(path), faults)
    return found


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as fault:
        raise DocumentError(str(path), [Fault(f"cannot be read: {fault.strerror}")]) from fault
