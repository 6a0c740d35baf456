"""Makes the two timelines of the scenario, with the list of what their sources are.

Run once, with the name of a folder: `python demo/brinehouse/timelines/make.py demo/brinehouse/timelines`. The files are
kept in the repository, as a production would bring them.
"""

import sys
from collections.abc import Sequence
from pathlib import Path

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange

FRAME = "1920,1080"


def clip(name: str, seconds: float, *effects: str, rate: float = 25, source_rate: float = 0) -> otio.schema.Clip:
    """So many seconds of a source, at a rate of its own where it has one."""
    own = source_rate or rate
    media = otio.schema.ExternalReference(f"{name}.mov", TimeRange(RationalTime(0, own), RationalTime(600 * own, own)))
    made = otio.schema.Clip(name, media, TimeRange(RationalTime(0, own), RationalTime(seconds * own, own)))
    made.effects.extend(otio.schema.Effect(name=effect, effect_name=effect) for effect in effects)
    return made


def gap(seconds: float, rate: float = 25) -> otio.schema.Gap:
    """Nothing for so long."""
    return otio.schema.Gap(duration=RationalTime(seconds * rate, rate))


def timeline(name: str, rate: float, *tracks: Sequence[otio.core.Item]) -> otio.schema.Timeline:
    """Tracks over one another."""
    made = otio.schema.Timeline(name, global_start_time=RationalTime(3600 * rate, rate))
    for number, items in enumerate(tracks, 1):
        made.tracks.append(otio.schema.Track(f"V{number}", list(items), kind=otio.schema.TrackKind.Video))
    return made


def salt_ledger() -> otio.schema.Timeline:
    """Plays on the better seats but for two stretches: six pictures at once, and three with a key and a blur."""
    first = [
        clip("ledger_a1", 42, "grade"), clip("ledger_a2", 18, "grade"), clip("mill_wide", 24, "grade"),
        clip("ledger_a3", 36, "grade"), clip("mill_wheel", 30, "grade"), clip("ledger_a4", 50, "grade"),
    ]  # fmt: skip
    second = [gap(60), clip("quay_b1", 24, "grade"), gap(36), clip("quay_b2", 22, "key", "blur"), gap(20)]
    third = [gap(66), clip("quay_c1", 14, "grade"), gap(42), clip("quay_c2", 18, "key", "blur")]
    fourth = [gap(66), clip("quay_d1", 14, "grade"), gap(46), clip("quay_d2", 10, "key", "blur")]
    rest = [[gap(68), clip(f"quay_{name}1", 10)] for name in "ef"]
    return timeline("The Salt Ledger, reel 3", 25, first, second, third, fourth, *rest)


def nine_lamps() -> otio.schema.Timeline:
    """Mixed rates at 24000/1001, a source run at twice its speed, and an effect that has no GPU form."""
    rate = 24000 / 1001
    fast = clip("lamp_run", 16, rate=rate)
    fast.effects.append(otio.schema.LinearTimeWarp(time_scalar=2))
    first = [
        clip("lamp_1", 30, "grade", rate=rate), clip("harbour_50p", 20, rate=rate, source_rate=50), fast,
        clip("lamp_2", 26, "grade", "old_film", rate=rate), clip("lamp_3", 34, "grade", rate=rate),
    ]  # fmt: skip
    second = [gap(40, rate), clip("lamp_titles", 30, rate=rate)]
    return timeline("Nine Lamps, teaser", rate, first, second)


def codec_of(target: str) -> str:
    """What a camera of the production writes."""
    return "hevc/10/422" if target.startswith(("quay", "harbour")) else "avc/8/420"


def main(folder: Path) -> None:
    """Writes them."""
    for name, made in (("salt-ledger-reel-3", salt_ledger()), ("nine-lamps-teaser", nine_lamps())):
        otio.adapters.write_to_file(made, str(folder / f"{name}.otio"))
        targets = sorted({found.media_reference.target_url for found in made.find_clips()})
        rows = [f"{target},{codec_of(target)},{FRAME}" for target in targets]
        (folder / f"{name}.media.csv").write_text("\n".join(["target_url,codec,width,height", *rows, ""]))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
