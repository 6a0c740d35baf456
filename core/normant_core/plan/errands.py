"""Errands: work that needs a person at the seat, with its steps and how its result is confirmed."""

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
    """The work, its steps, the items to bring and the estimated minutes; `proof` says what confirms the result."""

    does: str
    steps: tuple[str, ...]
    minutes: int
    proof: Literal["survey", "sign-off"]
    bring: tuple[str, ...] = ()

    @property
    def proves(self) -> str:
        """The sentence that says how the result is confirmed."""
        if self.proof == "survey":
            return "The seat's next survey confirms the work and closes the errand. The sign-off records who did it."
        return "No survey can confirm this work: the sign-off closes the errand."


@dataclass(frozen=True, slots=True)
class Stop:
    """A seat on the way through the rooms, with the numbers of its errands."""

    room: str
    seat: str
    errands: tuple[int, ...]


def errand_for(verdict: Verdict, seat: str) -> Errand | None:
    """Return the errand that settles a verdict, or None if a person must first decide on the value."""
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
    """Return an errand that a person wrote; only a sign-off can confirm it."""
    return Errand(does, tuple(steps), minutes, "sign-off", tuple(bring))


def way(errands: Mapping[int, str], places: Sequence[tuple[str, str]]) -> list[Stop]:
    """Return the stops for errands (number to seat), room by room; `places` are (room, seat) in walking order."""
    at: dict[str, list[int]] = {}
    for number, seat in sorted(errands.items()):
        at.setdefault(seat, []).append(number)
    return [Stop(room, seat, tuple(at[seat])) for room, seat in places if seat in at]


@lru_cache(maxsize=1)
def templates() -> Mapping[str, Errand]:
    """Return the templates that are part of core, by name."""
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
    """Return the name of the most specific template for a verdict."""
    if needs_a_disk(verdict):
        return "store.path"
    if verdict.setting == "app.version" and _is_older(str(verdict.fix), str(verdict.reading)):
        return "app.version_older"
    usual = "app" if verdict.app else "default"
    return next(filter((templates().keys() - {"app"}).__contains__, _from_narrow(verdict.setting)), usual)


def _from_narrow(setting: str) -> Iterator[str]:
    """Yield a setting's name and its prefixes, the longest first: `store.path.cache`, `store.path`, `store`."""
    while setting:
        yield setting
        setting = setting.rpartition(".")[0]


def needs_a_disk(verdict: Verdict) -> bool:
    """Return whether a folder must be on a suitable volume and the seat has none: a person must connect one."""
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
