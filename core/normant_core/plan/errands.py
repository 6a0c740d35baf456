"""Errands: what a person does at a seat where no order can, step by step, and how it is proved."""

import tomllib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import Literal

import msgspec

from ..base.quantities import Version
from ..base.wording import app_title
from ..catalogue.settings import Kind, catalogue
from ..judging.judge import Verdict

_SWITCHES = {"true": "on", "false": "off"}
LONGEST_STEP, MOST_STEPS = 400, 30


class Errand(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is to be done, with what in hand, in about how many minutes; `proof` says who can tell that it was done."""

    does: str
    steps: tuple[str, ...]
    minutes: int
    proof: Literal["survey", "sign-off"]
    bring: tuple[str, ...] = ()

    @property
    def proves(self) -> str:
        """How it is proved, as a sentence."""
        if self.proof == "survey":
            return "The seat's next survey confirms the work and closes the errand. The sign-off records who did it."
        return "No survey can confirm this work: the sign-off closes the errand."


@dataclass(frozen=True, slots=True)
class Stop:
    """A seat on somebody's way, with what is to be done there."""

    room: str
    seat: str
    errands: tuple[int, ...]


def errand_for(verdict: Verdict, seat: str) -> Errand | None:
    """The errand that settles a verdict; None where a person must decide on the value before anybody can do it."""
    if verdict.status != "off-norm":
        return None
    if verdict.fix is None and not needs_a_disk(verdict):
        return None
    setting = catalogue()[verdict.setting]
    words = {
        "seat": seat,
        "title": setting.title,
        "what": setting.title.removeprefix(f"{setting.family.capitalize()} ").lower(),
        "app": app_title(verdict.app or ""),
        "reading": _SWITCHES.get(verdict.reading_shown, verdict.reading_shown),
        "wanted": _SWITCHES.get(verdict.fix_shown, verdict.fix_shown),
    }
    return _filled(templates()[_name(verdict)], words)


def by_hand(does: str, steps: Iterable[str], *, bring: Iterable[str] = (), minutes: int = 10) -> Errand:
    """An errand that somebody wrote; only a person can say that it was done."""
    return Errand(does, tuple(steps), minutes, "sign-off", tuple(bring))


def way(errands: Mapping[int, str], places: Sequence[tuple[str, str]]) -> list[Stop]:
    """Errands (number to seat) along the floor, room by room; `places` are (room, seat) as one walks past them."""
    at: dict[str, list[int]] = {}
    for number, seat in sorted(errands.items()):
        at.setdefault(seat, []).append(number)
    return [Stop(room, seat, tuple(at[seat])) for room, seat in places if seat in at]


@lru_cache(maxsize=1)
def templates() -> Mapping[str, Errand]:
    """The templates that ship with core, by name."""
    text = resources.files(__package__).joinpath("errands.toml").read_text("utf-8")
    errands: dict[str, Errand] = {}
    for name, entry in tomllib.loads(text).items():
        if "does" in entry:
            errands[name] = msgspec.convert({k: v for k, v in entry.items() if not isinstance(v, dict)}, Errand)
        for part, inner in entry.items():
            if isinstance(inner, dict):
                errands[f"{name}.{part}"] = msgspec.convert(inner, Errand)
    return errands


def _name(verdict: Verdict) -> str:
    """The name of the template that fits best."""
    if needs_a_disk(verdict):
        return "store.path"
    if verdict.setting == "app.version" and _is_older(str(verdict.fix), str(verdict.reading)):
        return "app.version_older"
    usual = "app" if verdict.app else "default"
    return next(filter((templates().keys() - {"app"}).__contains__, _from_narrow(verdict.setting)), usual)


def _from_narrow(setting: str) -> Iterator[str]:
    """`store.path.cache`, `store.path`, `store`."""
    while setting:
        yield setting
        setting = setting.rpartition(".")[0]


def needs_a_disk(verdict: Verdict) -> bool:
    """Whether a folder has to are on a fit volume, and none of the seat's is: somebody has to attach one."""
    is_path = catalogue()[verdict.setting].kind is Kind.PATH
    return is_path and verdict.norm.check == "must" and verdict.fix is None


def _is_older(wanted: str, reading: str) -> bool:
    return Version.parse(wanted) < Version.parse(reading)


def _filled(template: Errand, words: Mapping[str, str]) -> Errand:
    def fill(text: str) -> str:
        return text.format_map(words)

    return msgspec.structs.replace(
        template,
        does=fill(template.does),
        steps=tuple(map(fill, template.steps)),
        bring=tuple(map(fill, template.bring)),
    )
