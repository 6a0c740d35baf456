"""On which seats a sentence of standing care decides, and what their stores hold."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

from normant.findings.resident import resident
from normant_core.care.clearing import Kind
from normant_core.judging.compiled import predicate
from normant_core.judging.judge import View
from normant_core.rules.evaluate import Scope
from normant_core.standard.care import care_on
from normant_core.standard.rule import Standard

Condition = Callable[[Scope], object]


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
    nodes = {care.layer.at: care.layer.condition.node for care in standard.care if care.layer.condition}
    conditions = {at: predicate(node) for at, node in nodes.items()}  # compiled: a house has thousands of seats
    if made:
        with resident.house() as house:
            for view in house.views():
                for kind, name in _deciding(standard, view, conditions):
                    _add(made[name], view, kind)
    return made


def _deciding(standard: Standard, view: View, conditions: Mapping[int | None, Condition]) -> Iterator[tuple[Kind, str]]:
    """A layer that may or may not apply, for something was not read, is taken not to."""
    scope = Scope(view.facts, view.seat, view.readings, stores=view.stores)
    apply = {at for at, condition in conditions.items() if condition(scope) is True}
    for kind, care in care_on(standard, lambda layer: layer.condition is None or layer.at in apply).items():
        yield kind, care.text.name


def _add(cared: CaredFor, view: View, kind: Kind) -> None:
    cared.kinds_on.setdefault(view.seat.name, []).append(kind)
    for store in view.stores:
        if store.purpose == kind:
            cared.stores += 1
            cared.size += store.size or 0
            cared.unused += store.unused or 0
