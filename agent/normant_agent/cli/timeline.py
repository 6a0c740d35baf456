"""The command line for timelines: `normant timeline load`."""

import tomllib
from pathlib import Path
from typing import Annotated, Any

import msgspec
import typer

from normant_core.base.errors import DocumentError
from normant_core.measure.machine.house_costs import read_media
from normant_core.measure.machine.timeline import Profile, RateError, Rates, Stretch, Work, check_rates
from normant_timelines.errors import TimelineError
from normant_timelines.reader import TimelineReader

from ..files import read
from .output import Format, bad_input
from .trial import text_of

timeline = typer.Typer(no_args_is_help=True, add_completion=False, help="Load of a timeline on a seat.")


@timeline.callback()
def _timeline() -> None:
    """Load of a timeline on a seat."""


@timeline.command()
def load(
    file: Annotated[Path, typer.Argument(metavar="TIMELINE", help="OpenTimelineIO: .otio, .otioz or .otiod.")],
    media: Annotated[Path, typer.Option(help="What the sources are, CSV: target_url, codec, width, height.")],
    rates: Annotated[Path, typer.Option(help="Frames per second of codecs and effects by device, JSON.")],
    effects: Annotated[Path | None, typer.Option(help="Frames per second of effects of the house, TOML.")] = None,
    output: Annotated[Format, typer.Option("--format")] = Format.TEXT,
) -> None:
    """Say stretch by stretch how much of each device a timeline takes; what could not be placed on standard error.

    Exit 0: all of it plays in real time, 1: some of it does not, 2: bad input.
    """
    with bad_input(DocumentError, RateError, TimelineError):
        known = _rates(rates, effects)
        made = TimelineReader(_codecs(media)).read(file)
    profile = Profile(made.placed, made.end)
    for work in profile.works:
        if not known.fastest(work):
            made.left.append(_unmeasured(work))
    loads = profile.on(known, made.rate)
    for line in made.left:
        typer.echo(line, err=True)
    for stretch in loads.stretches():
        typer.echo(msgspec.json.encode(_plain(stretch)).decode() if output is Format.JSON else _line(stretch))
    raise typer.Exit(int(not loads.plays))


def _codecs(path: Path) -> dict[str, str]:
    known = read_media(text_of(path), str(path))
    return {target: source.codec for target, source in known.items()}


def _rates(path: Path, effects: Path | None) -> Rates:
    try:
        known = check_rates(msgspec.json.decode(read(path)), str(path))
        house = tomllib.loads(read(effects).decode("utf-8")) if effects else {}
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError, tomllib.TOMLDecodeError) as fault:
        raise RateError(f"{path if not effects else f'{path} or {effects}'}: {fault}") from fault
    own = check_rates({"effects": house.get("effects", {})}, str(effects)).effects
    return Rates(known.decode, {**own, **known.effects})


def _unmeasured(work: Work) -> str:
    what = "codec" if work.kind == "decode" else "effect"
    return f"the {what} {work.name} has no measured rate and is not included"


def _plain(stretch: Stretch) -> dict[str, Any]:
    return {
        "start": _moment(stretch.start),
        "end": _moment(stretch.end),
        "frames": stretch.frames,
        "loads": stretch.loads,
        "plays_at": stretch.plays_at,
        "limited_by": stretch.limited_by,
    }


def _moment(at: Any) -> str:
    return f"{at.numerator}/{at.denominator}"


def _line(stretch: Stretch) -> str:
    """`12 s to 15.2 s: cpu 139 %, gpu0 31 %: 18 frames per second, limited by cpu`"""
    loads = ", ".join(f"{device} {share:.0%}" for device, share in sorted(stretch.loads.items(), key=lambda p: -p[1]))
    span = f"{float(stretch.start):g} s to {float(stretch.end):g} s: {loads or 'nothing is due'}"
    if stretch.limited_by is None:
        return f"{span}: real time"
    return f"{span}: {stretch.plays_at:.1f} frames per second, limited by {stretch.limited_by}"
