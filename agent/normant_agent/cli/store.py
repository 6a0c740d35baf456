"""The command line for stores: `normant store list`, `plan`; `normant forecast`. Nothing is touched."""

import datetime as dt
import sys
import tempfile
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Annotated, BinaryIO

import msgspec
import typer

from normant_core.base.errors import DocumentError, NormantError
from normant_core.base.quantities import Dimension, parse_quantity
from normant_core.base.wording import spoken_path
from normant_core.care.belonging import Belonging, PatternError
from normant_core.care.clearing import MADE, Decided, Kind, Rules, Sieve, StoreItem
from normant_core.care.deliveries import DeliveredProject, Deliveries
from normant_core.care.forecast import Forecast, forecast, read_sizes

from ..care.open_files import OPEN, open_files
from ..care.walk import Seen, keeps_access_times, walk
from ..errors import HostError
from .output import Format, bad_input
from .trial import table

store = typer.Typer(
    no_args_is_help=True, add_completion=False, help="List the files of a store and which may be deleted."
)
forecasts = typer.Typer()
_APP = "folder"  # a folder that is only looked at has no application
_END = b"\0"  # no path holds it
_PIECE = 1 << 20
_FIRST, _LAST = -62_135_596_800.0, 253_402_300_799.0  # seconds since 1970 that a date can be of
_CENTURY = 100 * 365 * 86_400
Folder = Annotated[Path, typer.Argument(help="A store's folder. It is only read.")]
Pattern = Annotated[
    str, typer.Option(help="Over an item's path: names groups production and project, as (?P<project>...).")
]


class ListedLine(msgspec.Struct):
    """An item as it is printed; `bytes` are free when it and every other name of it has gone."""

    path: str
    bytes: int
    used: str
    production: str
    project: str


class PlannedLine(ListedLine):
    """An item with what a plan says of it."""

    verdict: str
    why: str


@store.callback()
def _store() -> None:
    """List the files of a store, and which may be deleted."""


@store.command("list")
def list_(
    folder: Folder,
    pattern: Pattern = "",
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Print every item of a store as it is found."""
    with bad_input(HostError, PatternError):
        belonging, there = Belonging(pattern), set[tuple[int, int]]()
        for seen in _walked(folder):
            size = 0 if seen.names > 1 and seen.ident in there else seen.size
            if seen.names > 1:
                there.add(seen.ident)
            path = spoken_path(seen.path)
            production, project = belonging.of(path)
            _print(ListedLine(path, size, _moment(seen.used), production, project), output)
        sys.stdout.flush()


@store.command()
def plan(
    folder: Folder,
    kind: Annotated[str, typer.Option(help=f"Type of store: {', '.join(MADE)}.")],
    pattern: Pattern = "",
    live: Annotated[list[str] | None, typer.Option(help="A live production (repeatable).")] = None,
    delivered: Annotated[
        list[str] | None, typer.Option(help="A delivered project, as PRODUCTION/PROJECT (repeatable).")
    ] = None,
    unused_for: Annotated[str, typer.Option(help="Minimum time unused.")] = "60d",
    free: Annotated[str, typer.Option(help="Space to free, such as 200 GB; default: no limit.")] = "",
    as_of: Annotated[str, typer.Option(help="Reference time for ages, ISO; default: now.")] = "",
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say of every item whether it would go, and why not: the oldest first, until as much is free as is wanted."""
    with bad_input(HostError, PatternError, NormantError):
        deliveries = Deliveries(map(_delivered, delivered or ()), _APP)
        rules = Rules(_kind(kind), _as_of(as_of), _age(unused_for), frozenset(live or ()), deliveries)
        belonging = Belonging(pattern)
        sieve = Sieve(rules, _quantity(free, "--free", Dimension.BYTES) if free else None)
        with tempfile.TemporaryFile() as spool:
            _sieved(folder, sieve, belonging, spool)
            decided = sieve.decide()
            for line in _planned(spool, decided, belonging):
                _print(line, output)
        sys.stdout.flush()
    count, size = decided.goes
    typer.echo(f"{count:,} items, {size:,} bytes, can be deleted; no files were changed", err=True)
    for why, items, held in decided.reasons():
        typer.echo(f"{items:,} items, {held:,} bytes, kept: {why}", err=True)


def _sieved(folder: Path, sieve: Sieve, belonging: Belonging, spool: BinaryIO) -> None:
    """Every item through the sieve, and its path into the spool: a million paths in memory would be many times the
    rest.
    """
    held = open_files()
    for seen in _walked(folder):
        path = spoken_path(seen.path)
        stays = seen.stays or (OPEN if seen.ident in held else "")
        shared = seen.ident if seen.names > 1 else None
        sieve.take(StoreItem(seen.size, seen.used, stays, *belonging.of(path), seen.names, shared))
        try:
            spool.write(path.encode() + _END)
        except OSError as fault:
            raise HostError(f"what was found cannot be noted in a temporary file: {fault.strerror}") from fault


def _planned(spool: BinaryIO, decided: Decided, belonging: Belonging) -> Iterator[PlannedLine]:
    spool.seek(0)
    for number, path in enumerate(_paths(spool)):
        size, used = decided.counted(number)
        why = decided.why(number)
        yield PlannedLine(path, size, _moment(used), *belonging.of(path), "kept" if why else "goes", why)


def _paths(spool: BinaryIO) -> Iterator[str]:
    """What was written, each to its end."""
    rest = b""
    while piece := spool.read(_PIECE):
        *whole, rest = (rest + piece).split(_END)
        yield from (path.decode() for path in whole)


def _walked(folder: Path) -> Iterator[Seen]:
    try:
        keeps = keeps_access_times(folder)
    except OSError as fault:
        raise HostError(f"{folder} cannot be looked through: {fault.strerror}") from fault
    if not keeps:
        typer.echo("this volume keeps no access times: files that were only read count as unused", err=True)
    return walk(folder, access_times=keeps)


def _print(line: ListedLine, output: Format) -> None:
    if output is Format.JSON:
        sys.stdout.write(msgspec.json.encode(line).decode() + "\n")
        return
    verdict = f"{line.verdict}  " if isinstance(line, PlannedLine) else ""
    why = f"  ({line.why})" if isinstance(line, PlannedLine) and line.why else ""
    name = "".join(sign if sign.isprintable() else ascii(sign)[1:-1] for sign in line.path)
    sys.stdout.write(f"{verdict}{line.bytes:>15,}  {line.used[:10]}  {name}{why}\n")


def _moment(seconds: float) -> str:
    """ISO, in UTC; the first or last year that there is where a file system says something beyond."""
    return dt.datetime.fromtimestamp(min(max(seconds, _FIRST), _LAST), dt.UTC).isoformat(timespec="seconds")


def _delivered(text: str) -> DeliveredProject:
    production, slash, project = text.partition("/")
    if not (slash and production and project):
        raise NormantError(f"--delivered {text}: expected a production and a project, such as 'Nine Lamps/lamp_three'")
    return DeliveredProject(production, project, _APP, name_is_unique=True)


def _kind(text: str) -> Kind:
    known = next((kind for kind in MADE if kind == text), None)
    if known is None:
        raise NormantError(f"--kind {text}: expected one of {', '.join(MADE)}")
    return known


def _as_of(text: str) -> dt.datetime:
    if not text:
        return dt.datetime.now(dt.UTC)
    try:
        moment = dt.datetime.fromisoformat(text)
    except ValueError as why:
        raise NormantError(f"--as-of {text}: expected a moment such as 2026-11-02T06:00:00+00:00") from why
    return moment if moment.tzinfo else moment.replace(tzinfo=dt.UTC)


def _quantity(text: str, option: str, dimension: Dimension) -> int:
    try:
        value = int(Fraction(parse_quantity(text, dimension)))
    except NormantError as why:
        raise NormantError(f"{option}: {why}") from why
    if not 0 <= value < 1 << 62:
        raise NormantError(f"{option} {text}: expected a quantity from 0 to 4 EiB")
    return value


def _age(text: str) -> dt.timedelta:
    seconds = _quantity(text, "--unused-for", Dimension.SECONDS)
    if seconds > _CENTURY:
        raise NormantError(f"--unused-for {text}: expected at most a hundred years")
    return dt.timedelta(seconds=seconds)


@forecasts.command("forecast")
def forecast_command(
    sizes: Annotated[Path, typer.Argument(metavar="SIZES", help="CSV: moment, bytes, and maybe event.")],
    limit: Annotated[str, typer.Option(help="When is it this full? Such as 400 GB.")],
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say when a store fills, by its sizes of 14 days, cut where it was cleared or moved."""
    with bad_input(DocumentError, HostError, NormantError):
        made = forecast(read_sizes(table(sizes), str(sizes)), _quantity(limit, "--limit", Dimension.BYTES))
    typer.echo(msgspec.json.encode(made).decode() if output is Format.JSON else _line_of(made))


def _line_of(made: Forecast) -> str:
    """`5.83 GB a day (5.33 to 6.50): full on 22 Feb 2026, between 15 Feb 2026 and 3 Mar 2026`"""
    if made.per_day is None or made.low is None or made.high is None:
        return "too few sizes to say anything"
    speed = f"{made.per_day / 1e9:.2f} GB a day ({made.low / 1e9:.2f} to {made.high / 1e9:.2f})"
    if made.full_on is None or made.between is None:
        return f"{speed}: no day on which it would be full"
    first, last = (f"{moment:%-d %b %Y}" if moment else "never" for moment in made.between)
    return f"{speed}: full on {made.full_on:%-d %b %Y}, between {first} and {last}"
