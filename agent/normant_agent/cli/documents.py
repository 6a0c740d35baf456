"""Surveys, registers and standards from files, for the commands that need no server."""

import csv
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from normant_core.base.errors import DocumentError, Fault, NormantError
from normant_core.judging.judge import View
from normant_core.seat.facts import Seat
from normant_core.seat.survey import Survey, decode, is_whole, parse_survey
from normant_core.standard.parse import parse_standard
from normant_core.standard.rule import Standard

Surveys = Annotated[list[Path], typer.Argument(metavar="SURVEY...", help="Surveys, JSON, or NDJSON.")]
Register = Annotated[Path | None, typer.Option(help="CSV: seat,role,room,production.")]
COLUMNS = ("seat", "role", "room", "production")
NDJSON = (".ndjson", ".jsonl")


def read_views(surveys: Iterable[Path], register: Path | None) -> Iterator[View]:
    """Yield the seats of these surveys, each file one document or one in each line. Raises DocumentError."""
    seats = read_register(register) if register else {}
    return (_view(raw, source, seats) for raw, source in _documents(surveys))


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
