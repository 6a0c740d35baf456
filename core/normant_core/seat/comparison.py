"""What differs between two seats, or between a seat and its healthy peers, the likeliest cause first."""

import math
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

import msgspec

from ..base.quantities import Dimension, Value, show
from ..base.wording import of_app
from ..catalogue.settings import catalogue
from .facts import Facts
from .survey import Key

Readings = Mapping[Key, Value]
MEASURED = 1.5  # how much more a setting counts that a trial has shown to matter
_RESTLESS = {"free", "running", "read_rate", "write_rate"}  # parts of facts that move by themselves


@dataclass(frozen=True, slots=True)
class Difference:
    """One setting that differs: both values as shown (None: not read), and how likely it matters.

    `sharing` of the `peers` that have a reading of it hold this seat's value. `score` is the catalogue's effect times
    the surprise, in bits, of this seat's value among its peers.
    """

    setting: str
    title: str
    family: str
    app: str | None
    mine: str | None
    theirs: str | None
    sharing: int
    peers: int
    score: float
    measured: bool = False


def score(effect: int, sharing: int, peers: int) -> float:
    """`effect` (0 to 3) times -log2 of how expected the value is: Laplace's rule of succession over the peers."""
    return effect * -math.log2((sharing + 1) / (peers + 2))


def between(
    ours: Readings, theirs: Readings, *, peers: Sequence[Readings], measured: Collection[str] = ()
) -> list[Difference]:
    """Settings that two sets of readings hold differently, the likeliest to matter first."""
    keys = [key for key in {**ours, **theirs} if not _same(ours.get(key), theirs.get(key), key, ours, theirs)]
    differences = [_difference(key, ours, theirs, peers, measured) for key in keys]
    return sorted(differences, key=lambda d: (-d.score, d.setting, d.app or ""))


def usual(peers: Sequence[Readings]) -> dict[Key, Value]:
    """For each setting the value that most peers hold; of equally many, the first."""
    counts = dict[Key, Counter[tuple[type, Value]]]()
    for readings in peers:
        for key, value in readings.items():
            counts.setdefault(key, Counter())[type(value), value] += 1
    return {key: count.most_common(1)[0][0][1] for key, count in counts.items() if 2 * count.total() >= len(peers)}


def facts_between(ours: Facts, theirs: Facts) -> list[tuple[str, str | None, str | None]]:
    """Parts of the facts that differ: `(name, mine, theirs)`, what moves by itself left out."""
    first, two = dict(_named(msgspec.to_builtins(ours), "")), dict(_named(msgspec.to_builtins(theirs), ""))
    return [(name, first.get(name), two.get(name)) for name in {**first, **two} if first.get(name) != two.get(name)]


def culprit(differences: Sequence[Difference], *, healthy: int) -> str:
    """One sentence: the difference that most likely explains the trouble, and how sure that is."""
    differing = [d for d in differences if d.score > 0]
    if not differing:
        return "Nothing that matters for playing differs." if differences else "Nothing differs."
    first = differing[0]
    name = f"{first.title}{of_app(first.app)}"
    here, there = (value or "unread" for value in (first.mine, first.theirs))
    if not healthy:
        return f"Most likely {name}: {here} here, {there} there."
    share = f"{first.sharing} of {first.peers} healthy peers have it so"
    close = len(differing) > 1 and differing[1].score > 0.8 * first.score
    unsure = f"; {differing[1].title} is nearly as likely" if close else ""
    return f"Most likely {name}: {here} here, {there} there; {share}{unsure}."


def _difference(
    key: Key, ours: Readings, theirs: Readings, peers: Sequence[Readings], measured: Collection[str]
) -> Difference:
    setting, app = catalogue()[key[0]], key[1]
    known = [readings for readings in peers if key in readings]
    sharing = sum(_same(ours.get(key), readings[key], key, ours, readings) for readings in known)
    proven = setting.key in measured
    points = score(setting.effect, sharing, len(known)) * (MEASURED if proven else 1)
    shown = [setting.show(side[key]) if key in side else None for side in (ours, theirs)]
    return Difference(
        setting=setting.key,
        title=setting.title,
        family=setting.family,
        app=app,
        mine=shown[0],
        theirs=shown[1],
        sharing=sharing,
        peers=len(known),
        score=points,
        measured=proven,
    )


def _same(first: Value, two: Value, key: Key, ours: Readings, theirs: Readings) -> bool:
    if (key in ours) != (key in theirs):
        return False
    return isinstance(first, bool) == isinstance(two, bool) and first == two


def _named(value: object, name: str) -> Iterator[tuple[str, str]]:
    if isinstance(value, dict):
        for key, part in value.items():
            if key not in _RESTLESS and key != "id":
                yield from _named(part, f"{name} {key.replace('_', ' ')}".strip())
    elif isinstance(value, list | tuple):
        if all(isinstance(part, dict) for part in value) and value:
            for part in value:
                yield from _named(part, f"{name.removesuffix('s')} {part.get('id', '')}".strip())
        else:
            yield name, ", ".join(map(str, value)) or "none"
    elif value is not None:
        yield name, _shown(name, value)


def _shown(name: str, value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if name.endswith(("capacity", "memory", "total")) and isinstance(value, int):
        return show(value, Dimension.BYTES, unit="GB" if name.endswith("capacity") else "GiB")
    return str(value)
