"""Why a reading fails a condition, in words: only what failed, and what is there instead."""

from collections.abc import Callable, Sequence
from typing import Any

import msgspec
from msgspec.structs import replace

from ..base.quantities import Version
from ..base.wording import listed
from ..catalogue.settings import catalogue
from . import syntax
from .evaluate import Missing, Scope, evaluate, evaluate_item
from .spoken import OPPOSITE, Speaker, Test, in_tests, shown, topic_of, verbs


class Explained(msgspec.Struct, frozen=True):
    """Why a reading fails a condition, both behind its title: what is there, and what the house wants instead."""

    there: str
    wants: str


class Explainer(Speaker):
    """Speaks of conditions that fail."""

    def explained(self, node: syntax.Node, scope: Scope) -> Explained:
        """Why this reading fails the condition: only what failed. Meant for a condition that is false of the scope."""
        failed = _failed(in_tests(node), lambda part: evaluate(part, scope))
        of_volume = [part for part in failed if self._about(part) == "volume"]
        failures = self._of_volume(of_volume, scope)
        failures += [self._failure(part, scope) for part in failed if part not in of_volume]
        there, wants = ([failure[side] for failure in failures] for side in (0, 1))
        if not there or not (of_volume or there[0].startswith("is ")):
            there.insert(0, f"is {self._reading(scope)}")
        return Explained("; ".join(dict.fromkeys(there)), listed(dict.fromkeys(wants)))

    def _of_volume(self, failed: Sequence[syntax.Node], scope: Scope) -> list[tuple[str, str]]:
        """What fails about the volume that a path is on, in one: what is there, and what is wanted."""
        if not failed or not scope.volume:
            return []
        states = [self._state(part, lambda name: evaluate(name, scope)) for part in failed]
        return [(f"is on {scope.volume.id}, which {listed(verbs(states))}", self._thing("a volume", failed))]

    def _reading(self, scope: Scope) -> str:
        return self.setting.show(scope.reading) if self.setting else str(scope.reading)

    def _failure(self, node: syntax.Node, scope: Scope) -> tuple[str, str]:
        match node:
            case syntax.Over(name="any"):
                fit = self._inside(node)._verb_of_items(node.condition)
                return self._nearest(node, scope), f"one of {self._list(node)} that {fit}"
            case syntax.Over(name="all"):
                return self._those_that_fail(node, scope), f"that {self._clause(node)}"
        if self._about(node) == "reading":
            return f"is {self._reading(scope)}", self._verb(node).removeprefix("is ")
        return self._state(node, lambda name: evaluate(name, scope)).words, f"that {self._clause(node)}"

    def _nearest(self, over: syntax.Over, scope: Scope) -> str:
        """The candidate that lacks least, and what it lacks."""
        items = evaluate(over.items, scope)
        if isinstance(items, Missing) or not items:
            return f"there is none of {self._list(over)}"
        inside = self._inside(over)
        lacks = [_failed(over.condition, _on_item(scope, item)) for item in items]
        best = min(range(len(items)), key=lambda number: len(lacks[number]))
        states = [inside._state(part, _on_item(scope, items[best])) for part in lacks[best]]
        return f"{_name_of(items[best])} {listed(verbs(states))}"

    def _those_that_fail(self, over: syntax.Over, scope: Scope) -> str:
        inside, spoken = self._inside(over), list[str]()
        for item in evaluate(over.items, scope):
            lacks = _failed(over.condition, _on_item(scope, item))
            if lacks:
                states = [inside._state(part, _on_item(scope, item)) for part in lacks]
                spoken.append(f"{_name_of(item)} {listed(verbs(states))}")
        return listed(spoken)

    def _state(self, node: syntax.Node, known: Callable[[syntax.Node], Any]) -> Test:
        """How it is, where a test fails."""
        match node:
            case syntax.Name():
                return self._truth(node, yes=False)
            case syntax.Not(part=syntax.Name() as name):
                return self._truth(name, yes=True)
            case syntax.Compare(sign="in" | "not in") if not isinstance(node.right, syntax.Several):
                return self._in_list(replace(node, sign=OPPOSITE[node.sign]))
            case syntax.Compare(left=left):
                return self._bound(node, _known_text(known(left), left, self))
        return Test("", "that", f"not: {self._clause(node)}")


def _failed(node: syntax.Node, known: Callable[[syntax.Node], Any]) -> list[syntax.Node]:
    """The tests that fail; of `or` those of the branch that came nearest."""
    match node:
        case syntax.Logic(word="and", parts=parts):
            return [test for part in parts if known(part) is False for test in _failed(part, known)]
        case syntax.Logic(parts=parts):
            return min((_failed(part, known) for part in parts), key=len)
    return [node] if known(node) is False else []


def _on_item(scope: Scope, item: Any) -> Callable[[syntax.Node], Any]:
    return lambda node: evaluate_item(node, scope, item)


def _known_text(value: Any, node: syntax.Node, speaker: Speaker) -> str:
    if isinstance(value, Missing):
        return "unknown"
    if topic_of(node) == "reading" and speaker.setting:
        return speaker.setting.show(value)
    if isinstance(node, syntax.SettingOf):
        return catalogue()[node.key].show(value)
    return value.text if isinstance(value, Version) else shown(value, getattr(node, "dimension", None), node)


def _name_of(item: Any) -> str:
    return str(getattr(item, "id", None) or getattr(item, "path", None) or item)
