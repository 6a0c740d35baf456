"""What differs between two seats, or between a seat and its healthy peers, the likeliest cause first."""

import math
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import filterfalse
from typing import TypeVar

import msgspec

from ..base.quantities import Dimension, Value, show
from ..base.wording import opening, with_app
from ..catalogue.settings import catalogue
from .facts import Facts
from .survey import Key

Readings = Mapping[Key, Value]
Machine = Mapping[str, str]  # parts of a machine by name, as they are shown
K = TypeVar("K")
V = TypeVar("V")
MEASURED = 1.5  # how much more a setting counts that a trial has shown to matter
_LEFT_OUT = {"id", "free", "running", "read_rate", "write_rate"}  # names of parts, and what moves by itself
# How much a part of the machine explains of how a seat plays (0 to 3, as the catalogue says of settings), by the first
# and the last word of its name. What is a reading as well, such as the driver's version, stands in the catalogue.
_EFFECT = {
    ("gpu", "model"): 3,
    ("gpu", "enabled"): 3,  # the firmware's switch
    ("gpu", "interfaces"): 2,
    ("gpu", "memory"): 2,
    ("memory", "total"): 2,
    ("cpu", "model"): 1,
    ("volume", "attached"): 2,
    ("volume", "kind"): 2,
    ("volume", "free"): 2,
    ("display", "rate"): 1,
}
_FREE = ((0.05, "under 5 %"), (0.1, "5 to 10 %"), (0.25, "10 to 25 %"))  # shares of a volume, the fullest first


@dataclass(frozen=True, slots=True)
class Difference:
    """A setting, or a part of the machine, that differs: both values as shown (None: not read), and its likely effect.

    Of a part, `setting` is its name and `family` is `machine`. `sharing` of the `peers` that have a reading of it hold
    this seat's value. `score` is the catalogue's effect times the surprise, in bits, of this seat's value among its
    peers.
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


_STRONG, _MODERATE = 4.0, 1.5  # bits: an effect of 3 that 1 of 3 peers shares, and an effect of 1 that 1 of 3 shares


def effect_words(points: float) -> str:
    """Return how likely a difference of this score is the cause: `strong`, `moderate`, `weak` or `none`."""
    if points <= 0:
        return "none"
    return "strong" if points >= _STRONG else "moderate" if points >= _MODERATE else "weak"


def between(
    ours: Readings, theirs: Readings, *, peers: Sequence[Readings], measured: Collection[str] = ()
) -> list[Difference]:
    """Settings that two sets of readings hold differently, the likeliest to matter first."""
    keys = [key for key in {**ours, **theirs} if not _same(ours.get(key), theirs.get(key), key, ours, theirs)]
    return ranked(_difference(key, ours, theirs, peers, measured) for key in keys)


def ranked(differences: Iterable[Difference]) -> list[Difference]:
    """The likeliest to matter first."""
    return sorted(differences, key=lambda d: (-d.score, d.setting, d.app or ""))


def machine_of(facts: Facts) -> dict[str, str]:
    """Every part of the facts by its name, as it is shown; of a volume's free space only how scarce it is."""
    known = ((v.id, v.free, v.capacity) for v in facts.volumes or ())
    free = {f"volume {id} free": _scarcity(left / of) for id, left, of in known if of and left is not None}
    return {**dict(_named(msgspec.to_builtins(facts), "")), **free}


def between_machines(ours: Machine, theirs: Machine, *, peers: Sequence[Machine]) -> list[Difference]:
    """Parts of two machines that differ and explain how a seat plays, scored as settings are."""
    names = [name for name in {**ours, **theirs} if _effect_of(name) and ours.get(name) != theirs.get(name)]
    return ranked(_part(name, ours, theirs, peers) for name in names)


def usual(peers: Sequence[Mapping[K, V]]) -> dict[K, V]:
    """For each setting, or part of a machine, the value that most peers hold; of equally many, the first."""
    counts = dict[K, Counter[tuple[type, V]]]()
    for readings in peers:
        for key, value in readings.items():
            counts.setdefault(key, Counter())[type(value), value] += 1
    return {key: count.most_common(1)[0][0][1] for key, count in counts.items() if 2 * count.total() >= len(peers)}


def facts_between(ours: Machine, theirs: Machine) -> list[tuple[str, str | None, str | None]]:
    """Parts of two machines that differ: `(name, mine, theirs)`; free space, which moves by itself, is left out."""
    names = [name for name in {**ours, **theirs} if not name.endswith(" free")]
    return [(name, ours.get(name), theirs.get(name)) for name in names if ours.get(name) != theirs.get(name)]


def culprit(differences: Sequence[Difference], *, healthy: int, facts: int = 0) -> str:
    """Return the sentence about the difference that most likely explains the trouble, and how sure that is.

    `facts` counts further parts of the machine that differ.
    """
    differing = [d for d in differences if d.score > 0]
    if not differing:
        return "No differences that affect playback." if differences or facts else "No differences."
    first = differing[0]
    name = f"{with_app(first.title, first.app)}"
    here, there = (value or "unread" for value in (first.mine, first.theirs))
    if not healthy:
        return f"Most likely {name}: {here} here, {there} there."
    share = f"{first.sharing} of {first.peers} peers have this value"
    return f"Most likely {name}: {here} here, {there} there; {share}{_rival(differing)}."


def _rival(differing: Sequence[Difference]) -> str:
    """The second difference, where it is nearly as likely as the first."""
    close = len(differing) > 1 and differing[1].score > 0.8 * differing[0].score
    return f"; {differing[1].title} is nearly as likely" if close else ""


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


def _part(name: str, ours: Machine, theirs: Machine, peers: Sequence[Machine]) -> Difference:
    known = [machine for machine in peers if name in machine]
    sharing = sum(machine[name] == ours.get(name) for machine in known)
    return Difference(
        setting=name,
        title=opening(name).replace("Gpu ", "GPU ").replace("Cpu ", "CPU "),
        family="machine",
        app=None,
        mine=ours.get(name),
        theirs=theirs.get(name),
        sharing=sharing,
        peers=len(known),
        score=score(_effect_of(name), sharing, len(known)),
    )


def _effect_of(name: str) -> int:
    words = name.split()
    return _EFFECT.get((words[0], words[-1]), 0)


def _scarcity(share: float) -> str:
    return next((words for most, words in _FREE if share < most), "over 25 %")


def _same(first: Value, two: Value, key: Key, ours: Readings, theirs: Readings) -> bool:
    if (key in ours) != (key in theirs):
        return False
    return isinstance(first, bool) == isinstance(two, bool) and first == two


def _named(value: object, name: str) -> Iterator[tuple[str, str]]:
    """Each part of the facts by its name in words, with what it is; parts that move by themselves are left out."""
    match value:
        case dict():
            for key in filterfalse(_LEFT_OUT.__contains__, value):
                yield from _named(value[key], f"{name} {key.replace('_', ' ')}".strip())
        case [dict(), *_] as parts:
            for part in parts:
                yield from _named(part, f"{name.removesuffix('s')} {part.get('id', '')}".strip())  # type: ignore[attr-defined]
        case None:
            return
        case _:
            yield name, _shown(name, value)


_UNITS = {"capacity": "GB", "memory": "GiB", "total": "GiB"}  # of facts that are bytes, by their last word


def _shown(name: str, value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list | tuple):
        return ", ".join(map(str, value)) or "none"
    unit = _UNITS.get(name.rsplit(maxsplit=1)[-1])
    return show(value, Dimension.BYTES, unit=unit) if unit and isinstance(value, int) else str(value)
