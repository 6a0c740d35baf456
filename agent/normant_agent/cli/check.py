"""`normant check`: surveys against a standard, from files, without a server."""

import csv
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np

from normant_core.base.errors import DocumentError, Fault, NormantError
from normant_core.house.columns import House
from normant_core.house.explain import SharedVerdict, Telling
from normant_core.house.marks import IN_NORM, NO_NORM, has_status
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Seat
from normant_core.seat.survey import Survey, decode, is_whole, parse_survey
from normant_core.standard.parse import parse_standard
from normant_core.standard.rule import Standard

COLUMNS = ("seat", "role", "room", "production")
NDJSON = (".ndjson", ".jsonl")


@dataclass(frozen=True, slots=True)
class Checked:
    """A seat and what is told of its readings."""

    seat: str
    lines: list[SharedVerdict]


def read_house(surveys: Iterable[Path], register: Path | None) -> House:
    """The seats of these surveys, each file one document or one in each line. Raises DocumentError."""
    seats = read_register(register) if register else {}
    return House(_view(raw, source, seats) for raw, source in _documents(surveys))


def read_surveys(paths: Iterable[Path]) -> list[Survey]:
    """The surveys of these files, each one document or one in each line. Raises DocumentError."""
    surveys = [parse_survey(raw, source) for raw, source in _documents(paths)]
    if not surveys:
        raise DocumentError(", ".join(map(str, paths)), [Fault("there is no survey", expected="at least one")])
    return surveys


def _view(raw: bytes, source: str, seats: Mapping[str, Seat]) -> View:
    try:
        survey = decode(raw)
        view = View.of(survey, seats.get(survey.seat) or Seat(survey.seat))
    except (NormantError, msgspec.MsgspecError, ValueError, KeyError, RecursionError):
        pass  # what is wrong, and where, is told by looking again
    else:
        if is_whole(survey, raw):
            return view
    survey = parse_survey(raw, source)
    return View.of(survey, seats.get(survey.seat) or Seat(survey.seat))


def check(standard: Standard, house: House, *, every: bool) -> Iterator[Checked]:
    """What is off norm or unread on each seat, in the order of the surveys; with `every` what is in norm as well."""
    telling = Telling(Standing(house, Judge(standard)), ())
    spoken: list[list[SharedVerdict]] = [[] for _ in range(len(house))]
    for case in telling.standing.cases.values():
        marks = case.kinds.marks()
        rows = np.flatnonzero((marks != NO_NORM) & (every | ~has_status(marks, IN_NORM))).tolist()
        for row, line in zip(rows, telling.verdicts(case, rows), strict=True):
            spoken[row].append(line)
    for seat, lines in zip(house.rows, spoken, strict=True):
        yield Checked(seat.seat.name, lines)


def _documents(paths: Iterable[Path]) -> Iterator[tuple[bytes, str]]:
    for path in paths:
        raw = _bytes(path)
        lines = raw.splitlines()
        if path.suffix in NDJSON or (len(lines) > 1 and _is_whole(lines[0]) and _is_whole(lines[1])):
            for number, line in enumerate(lines, 1):
                if line.strip():
                    yield line, f"{path}: document {number}"
        else:
            yield raw, str(path)


def _is_whole(line: bytes) -> bool:
    """Whether a line looks like a document of its own."""
    return line.startswith(b"{") and line.rstrip().endswith(b"}")


def load_standard(path: Path) -> Standard:
    """Raises DocumentError."""
    raw = _bytes(path)
    try:
        return parse_standard(raw.decode("utf-8"), str(path))
    except UnicodeDecodeError as fault:
        line = raw[: fault.start].count(b"\n") + 1
        fault_found = Fault(f"byte {fault.start} is not UTF-8", line=line, column=1, expected="text in UTF-8")
        raise DocumentError(str(path), [fault_found]) from fault


def read_register(path: Path) -> dict[str, Seat]:
    """Seats by name from a CSV file `seat,role,room,production`, in any order of columns."""
    try:
        lines = _bytes(path).decode("utf-8-sig").splitlines()
    except UnicodeDecodeError as fault:
        raise DocumentError(str(path), [Fault("the register is not text", expected="UTF-8")]) from fault
    rows = csv.DictReader(lines)
    names = rows.fieldnames or []
    if missing := [name for name in COLUMNS if name not in names]:
        missing_column = Fault(
            f"the register has no column {missing[0]!r}", line=1, column=1, expected=",".join(COLUMNS)
        )
        raise DocumentError(str(path), [missing_column])
    seats, faults = dict[str, Seat](), list[Fault]()
    for row in rows:
        name = (row["seat"] or "").strip()
        if not name or None in row or name in seats:
            reason = "this seat stands twice" if name in seats else "this row has not the columns of the first"
            faults.append(Fault(reason, line=rows.line_num, column=1, expected=",".join(names)))
            continue
        seats[name] = Seat(name, *((row[column] or "").strip() or None for column in COLUMNS[1:]))
    if faults:
        raise DocumentError(str(path), faults)
    return seats


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as fault:
        raise DocumentError(str(path), [Fault(f"cannot be read: {fault.strerror}")]) from fault
