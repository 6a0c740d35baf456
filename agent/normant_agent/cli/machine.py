"""The command line for what a machine can do: `normant memory plan`, `routes`, `place`, from surveys."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Any

import msgspec
import typer

from normant_core.base.errors import DocumentError, Fault, NormantError
from normant_core.base.quantities import Dimension, Value, parse_quantity
from normant_core.care.moves import ordered_moves
from normant_core.care.placement import PlacementError, place
from normant_core.care.wanted_stores import read_stores, stores_of
from normant_core.measure.machine.memory import CutError, Wanted, cut, read_frame
from normant_core.measure.machine.readiness import readiness
from normant_core.measure.machine.routes import RouteAsked, codecs_of, route
from normant_core.seat.survey import Survey

from ..errors import HostError
from ..files import read
from .documents import read_surveys
from .output import Format, bad_input

memory = typer.Typer(no_args_is_help=True, add_completion=False, help="Plan a machine's memory.")
machine = typer.Typer()
USUAL_FOREGROUND, USUAL_RESERVED = "8 GiB", 2

Size = Annotated[str, typer.Option(help="Such as 6 GiB, or a share of the memory such as 10 %.")]


@memory.callback()
def _memory() -> None:
    """Plan a machine's memory."""


@memory.command()
def plan(
    survey: Annotated[Path, typer.Argument(help="A survey, JSON.")],
    frame: Annotated[str, typer.Option(help="Pixels of a frame, such as 3840x2160.")],
    bits: Annotated[int, typer.Option(help="Bits of a channel: 8, 16 or 32.")] = 8,
    rate: Annotated[str, typer.Option(help="Frames per second, such as 25 or 24000/1001.")] = "25",
    app: Annotated[str, typer.Option(help="Application; default: the first with each setting.")] = "",
    held_back: Size = "",
    foreground: Size = USUAL_FOREGROUND,
    per_worker: Size = "",
    reserved: Annotated[int | None, typer.Option(min=0, help="Cores reserved for others.")] = None,
    workers: Annotated[int | None, typer.Option(min=0, help="Number of workers.")] = None,
    pool_least: Size = "0 %",
    pool_most: Size = "40 %",
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Propose workers and a preview pool that fit, and preview most. Exit 1: more is wanted than there is."""
    with bad_input(DocumentError, HostError, CutError, NormantError):
        (seat,) = read_surveys([survey])[:1]
        total, cores = seat.facts.memory.total, seat.facts.cpu.cores
        if total is None or cores is None:
            raise DocumentError(str(survey), [Fault("the survey has no memory.total or no cpu.cores", path="facts")])
        spared = _read(seat, "memory.reserved_cores", app)
        wanted = Wanted(
            total,
            _given(held_back, total) if held_back else _needed(seat, "memory.held_back", app),
            _given(foreground, total),
            _given(per_worker, total) if per_worker else _needed(seat, "memory.per_worker", app),
            cores,
            reserved if reserved is not None else spared if isinstance(spared, int) else USUAL_RESERVED,
            _given(pool_least, total),
            _given(pool_most, total),
            read_frame(frame, bits),
            Fraction(parse_quantity(rate, Dimension.RATE)),
            workers,
        )
        if wanted.rate <= 0:
            raise CutError(f"{rate}: expected frames per second above 0")
    made = cut(wanted)
    typer.echo(msgspec.json.encode(made).decode() if output is Format.JSON else made.sentence)
    raise typer.Exit(int(made.over > 0))


@machine.command()
def ready(
    surveys: Annotated[list[Path], typer.Argument(help="Surveys, JSON or NDJSON.")],
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Ready to deliver? Exit 1 where a lowered preview would reach an export, or nobody knows whether it would."""
    with bad_input(DocumentError, HostError):
        seats = read_surveys(surveys)
    answers = {seat.seat: readiness(seat.values()) for seat in seats}
    for seat, answer in answers.items():
        if output is Format.JSON:
            typer.echo(msgspec.json.encode({"seat": seat, **msgspec.structs.asdict(answer)}).decode())
        else:
            typer.echo("\n  ".join([f"{seat}: {answer.sentence}", *(guard.sentence for guard in answer.guards)]))
    raise typer.Exit(int(not all(made.ready for made in answers.values())))


def _given(text: str, total: int) -> int:
    """Bytes, or a share of the whole."""
    dimension = Dimension.SHARE if text.rstrip().endswith("%") else Dimension.BYTES
    value = Fraction(parse_quantity(text, dimension))
    size = int(value * total) if dimension is Dimension.SHARE else int(value)
    if not 0 <= size <= total:
        raise CutError(f"{text}: expected 0 to the whole memory")
    return size


def _read(seat: Survey, setting: str, app: str) -> Value:
    values = seat.values()
    return next((value for key, value in values.items() if key[0] == setting and app in ("", key[1])), None)


def _needed(seat: Survey, setting: str, app: str) -> int:
    value = _read(seat, setting, app)
    if not isinstance(value, int | Fraction):
        option = "--" + setting.rpartition(".")[2].replace("_", "-")
        raise CutError(f"the survey does not say {setting}{f' of {app}' if app else ''}: say it with {option}")
    return int(value)


@machine.command()
def routes(
    surveys: Annotated[list[Path], typer.Argument(metavar="SURVEY...", help="Surveys, JSON or NDJSON.")],
    codec: Annotated[list[str] | None, typer.Option(help="Such as hevc/10/422; else all that GPUs list.")] = None,
    app: Annotated[str, typer.Option(help="The application whose setting of the decoding device counts.")] = "",
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say for every codec and seat which device decodes it, and why those before it do not."""
    with bad_input(DocumentError, HostError):
        seats = read_surveys(surveys)
    codecs = codec or codecs_of(seat.facts for seat in seats)
    for seat in seats:
        configured = str(_read(seat, "engine.decode", app) or "auto")
        for name in codecs:
            made = route(seat.facts, RouteAsked(name, app or None, configured))
            if output is Format.JSON:
                typer.echo(msgspec.json.encode({"seat": seat.seat, **msgspec.to_builtins(made)}).decode())
            else:
                typer.echo(f"{seat.seat}: {made.sentence}")


@machine.command("place")
def place_command(
    survey: Annotated[Path, typer.Argument(help="A survey, JSON.")],
    stores: Annotated[Path | None, typer.Option(help="Space that stores need, TOML; default: their sizes.")] = None,
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say where all stores of a seat lie best, and in which order they move. Exit 1: they cannot, and why."""
    with bad_input(DocumentError, HostError, PlacementError, UnicodeDecodeError):
        (seat,) = read_surveys([survey])[:1]
        wanted = read_stores(read(stores).decode("utf-8"), str(stores), seat) if stores else stores_of(seat)
        volumes = seat.facts.volumes or ()
        made = place(wanted, volumes)
        moves = None if made.impossible else ordered_moves(wanted, volumes, made.volumes)
    answer = {
        "volumes": made.volumes,
        "why": made.whys,
        "violations": made.violations,
        "bytes_moved": made.moved,
        "moves": moves,
        "impossible": made.impossible or ("" if moves is not None else "no order of the moves has room at each step"),
    }
    typer.echo(msgspec.json.encode(answer).decode() if output is Format.JSON else "\n".join(_placed(answer)))
    raise typer.Exit(int(bool(answer["impossible"])))


def _placed(answer: dict[str, Any]) -> Iterator[str]:
    for name, volume in answer["volumes"].items():
        yield f"{name}: {volume} ({answer['why'][name]})"
    yield from (f"amiss: {violation}" for violation in answer["violations"])
    for number, move in enumerate(answer["moves"] or (), 1):
        by = ", by the way" if move.detour else ""
        left = ", ".join(f"{volume} {free:,}" for volume, free in move.free.items())
        way = f"{move.source or 'nowhere'} to {move.target}, {move.size:,} bytes{by}"
        yield f"{number}. {move.store}: {way}; free then: {left}"
    if answer["impossible"]:
        yield answer["impossible"]
