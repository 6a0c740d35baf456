"""On which seats a sentence of standing care decides, and what their stores hold."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from normant.findings.resident import resident
from normant_core.care.clearing import Kind
from normant_core.judging.judge import View
from normant_core.rules.evaluate import Scope
from normant_core.standard.care import care_on
from normant_core.standard.rule import Standard


@dataclass(slots=True)
class CaredFor:
    """The seats of a sentence with the kinds of which it decides there; bytes of those stores, and of what in them
    nobody used for a month."""

    kinds_on: dict[str, list[Kind]] = field(default_factory=dict)
    stores: int = 0
    size: int = 0
    unused: int = 0


def cared_for(standard: Standard) -> Mapping[str, CaredFor]:
    """By the names of sentences, on the house as it is now."""
    made = {care.text.name: CaredFor() for care in standard.care}
    if made:
        with resident.house() as house:
            for view in house.views():
                for kind, name in _deciding(standard, view):
                    _add(made[name], view, kind)
    return made


def _deciding(standard: Standard, view: View) -> Iterator[tuple[Kind, str]]:
    scope = Scope(view.facts, view.seat, view.readings, stores=view.stores)
    for kind, care in care_on(standard, scope).items():
        yield kind, care.text.name


def _add(cared: CaredFor, view: View, kind: Kind) -> None:
    cared.kinds_on.setdefault(view.seat.name, []).append(kind)
    for store in view.stores:
        if store.purpose == kind:
            cared.stores += 1
            cared.size += store.size or 0
            cared.unused += store.unused or 0
