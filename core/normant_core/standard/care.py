"""Standing care: sentences of a standard's layers that have caches cleared by themselves, within limits.

Of a kind of store on a seat the last layer that speaks of it decides, as with rules.
"""

import datetime as dt
import hashlib
from collections.abc import Callable, Iterator

import msgspec

from ..base.errors import Fault, QuantityError
from ..base.quantities import Dimension, parse_quantity
from ..base.toml_places import Places
from ..base.wording import counted, listed, opening
from ..care.clearing import MADE, Kind, kind_words
from .rule import Care, CareText, Layer, Path, Standard, StandardText
from .soundness import Make

DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
GROWS = 1.5  # times what it did before: more waits for a person again
LARGEST = 1 << 62


def care_faults(document: StandardText, make: Make) -> Iterator[Fault]:
    """What cannot be right in the sentences of care, each with its place."""
    names = set[str]()
    for number, layer in enumerate(document.layer):
        kinds = set[str]()
        for place, text in enumerate(layer.care):
            path: Path = ("layer", number, "care", place)
            yield from _name_faults(text, path, names, make)
            yield from _kind_faults(text, path, kinds, make)
            yield from _size_faults(text, path, make)


def _name_faults(text: CareText, path: Path, names: set[str], make: Make) -> Iterator[Fault]:
    if text.name in names:
        yield make((*path, "name"), f"{text.name} stands twice", "a name of its own for each sentence of care")
    if text.opens == text.closes:
        yield make((*path, "closes"), "it closes when it opens", "another hour")
    names.add(text.name)


def _kind_faults(text: CareText, path: Path, kinds: set[str], make: Make) -> Iterator[Fault]:
    """It clears what may be cleared, and of a kind a layer speaks once."""
    for kind in text.kinds:
        if MADE[kind] == "never by us":
            yield make((*path, "kinds"), f"{kind} are never removed by us", "kinds that are made again, or copies")
        if kind in kinds:
            message = f"this layer speaks of {kind_words(kind)} twice"
            yield make((*path, "kinds"), message, "one sentence of a layer for each kind")
        kinds.add(kind)


def _size_faults(text: CareText, path: Path, make: Make) -> Iterator[Fault]:
    for name, given in (("most", text.most), ("free", text.free)):
        if not given and name == "free":
            continue
        try:
            size = parse_quantity(given, Dimension.BYTES)
        except QuantityError as wrong:
            yield make((*path, name), str(wrong), "such as 500 GB", offset=wrong.position)
            continue
        if not 0 < size < LARGEST:
            yield make((*path, name), f"{given} is no size that can be made free", "such as 500 GB")


def standing_care(document: StandardText, layers: tuple[Layer, ...], places: Places) -> Iterator[Care]:
    """The sentences in the order of precedence of their layers; of a document in which `care_faults` found nothing."""
    for layer in layers:
        assert layer.at is not None
        for number, text in enumerate(document.layer[layer.at].care):
            free = _size(text.free) if text.free else None
            line, _ = places.of(("layer", layer.at, "care", number))
            yield Care(layer, text, _size(text.most), free, (layer.at, number), line)


def _size(text: str) -> int:
    return int(parse_quantity(text, Dimension.BYTES))


def care_on(standard: Standard, applies: Callable[[Layer], bool]) -> dict[Kind, Care]:
    """By which sentence each kind of store of a seat is cleared, where these of its layers apply."""
    deciding = dict[Kind, Care]()
    for care in standard.care:
        if applies(care.layer):
            deciding |= dict.fromkeys(care.text.kinds, care)
    return deciding


def meaning(care: Care) -> str:
    """A digest of what a sentence does and where: where it is another, somebody has to agree to it again."""
    text = msgspec.structs.replace(care.text, because="")
    where = (care.layer.condition.text, care.layer.wording) if care.layer.condition else ()
    return hashlib.sha256(msgspec.json.encode((care.layer.name, where, text))).hexdigest()


def care_sentence(text: CareText) -> str:
    """`Frame cache: files unused for 30 days are deleted, each Sunday from 03:00 to 07:00, at most 500 GB per seat.`"""
    kinds = opening(listed(map(kind_words, text.kinds)))
    day = text.each if text.each == "day" else text.each.capitalize()
    enough = f", until {text.free} are free on each volume" if text.free else ""
    unused = counted(text.unused_days, "day")
    hours = f"each {day} from {text.opens} to {text.closes}"
    return f"{kinds}: files unused for {unused} are deleted, {hours}{enough}, at most {text.most} per seat"


def turn_at(text: CareText, now: dt.datetime) -> tuple[dt.datetime, dt.datetime] | None:
    """The hours of a turn that holds this moment, by the clock of the moment's own zone; None where none does."""
    opens, closes = dt.time.fromisoformat(text.opens), dt.time.fromisoformat(text.closes)
    for day in (now.date() - dt.timedelta(days=1), now.date()):  # one that closes before it opens lasts over night
        if text.each not in ("day", DAYS[day.weekday()]):
            continue
        last = day + dt.timedelta(days=closes <= opens)
        begins, ends = (dt.datetime.combine(d, t, now.tzinfo) for d, t in ((day, opens), (last, closes)))
        if begins <= now < ends:
            return begins, ends
    return None


def next_turn(text: CareText, now: dt.datetime) -> dt.datetime:
    """When the next turn opens, after this moment, by the clock of the moment's own zone."""
    opens = dt.time.fromisoformat(text.opens)
    days = (now.date() + dt.timedelta(days=ahead) for ahead in range(9))
    moments = (dt.datetime.combine(d, opens, now.tzinfo) for d in days if text.each in ("day", DAYS[d.weekday()]))
    return next(moment for moment in moments if moment > now)


def may_run(promised: int, before: list[int]) -> bool:
    """Whether a turn may begin without a person, by what earlier ones, that were signed, promised (bytes each)."""
    return bool(before) and promised <= GROWS * max(before)
