"""A long timeline's load on many seats, against reading the file alone."""

import random
import statistics
import tempfile
import time
from pathlib import Path

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange

from normant_core.measure.machine.timeline import Profile, Rates
from normant_timelines.reader import TimelineReader

from ..measure import Figure

CLIPS, TRACKS, SEATS = 5_000, 12, 100
CODECS = [f"{family}/{bits}" for family in ("avc", "hevc", "ffv1", "proxy") for bits in ("8/420", "10/422")]
EFFECTS = ("blur", "key", "grade", "stabilise")
TIMES, MOST = 5, 20


def timeline() -> Figure:
    """Reading, placing and the profiles of all seats; `against` is the library's own reading."""
    draw = random.Random(3)
    codecs = {f"source-{n:03}.mov": draw.choice(CODECS) for n in range(400)}
    seats = [_rates(draw) for _ in range(SEATS)]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "long.otio")
        otio.adapters.write_to_file(_long(draw, list(codecs)), str(path))
        rounds = [_round(path, codecs, seats) for _ in range(TIMES)]
    taken, ratio, stretches = (statistics.median(column) for column in zip(*rounds, strict=True))
    against = f"reading it; {CLIPS:,} clips on {TRACKS} tracks, {stretches:,} stretches, {SEATS} seats"
    return Figure.at_most("timeline", taken, "s", against, ratio, MOST)


def _round(path: Path, codecs: dict[str, str], seats: list[Rates]) -> tuple[float, float, int]:
    begun = time.perf_counter()
    otio.adapters.read_from_file(str(path))
    read = time.perf_counter() - begun
    begun = time.perf_counter()
    made = TimelineReader(codecs).read(path)
    profile = Profile(made.placed, made.end)
    shown = [profile.on(rates, made.rate) for rates in seats]
    taken = time.perf_counter() - begun
    assert not made.left
    assert len(shown) == SEATS
    return taken, taken / read, len(shown[0].loads)


def _long(draw: random.Random, targets: list[str]) -> otio.schema.Timeline:
    made = otio.schema.Timeline("long", global_start_time=RationalTime(0, 25))
    for number in range(TRACKS):
        track = otio.schema.Track(f"V{number + 1}", kind="Video")
        for _ in range(CLIPS // TRACKS + 1):
            track.append(_clip(draw, draw.choice(targets)))
        made.tracks.append(track)
    return made


def _clip(draw: random.Random, target: str) -> otio.schema.Clip:
    source = otio.schema.ExternalReference(target, TimeRange(RationalTime(0, 25), RationalTime(9000, 25)))
    clip = otio.schema.Clip(target, source, TimeRange(RationalTime(0, 25), RationalTime(draw.randint(10, 500), 25)))
    for name in draw.sample(EFFECTS, draw.randint(0, 2)):
        clip.effects.append(otio.schema.Effect(name=name, effect_name=name))
    return clip


def _rates(draw: random.Random) -> Rates:
    decode = {codec: {draw.choice(("cpu", "gpu0", "gpu1")): draw.uniform(20, 400)} for codec in CODECS}
    return Rates(decode, {name: {"gpu0": draw.uniform(40, 200)} for name in EFFECTS})
