"""Expressions as people say them: no name of a fact, no sign and no bracket is left.

A condition is a tree of tests. Each test is about something: the reading that a rule judges, the volume that a path
lies on, an item of a list, or the seat as a whole. Tests about one thing are said together ("a volume that is attached,
not the system's, with at least 120 GB free"), everything else as a clause of its own. What is denied is first brought
down to the tests, where it has words of its own ("not the system's", "less than").
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..base.quantities import Dimension, Version, show
from ..base.wording import listed
from ..catalogue.settings import Setting, catalogue
from . import syntax
from .evaluate import Missing, Scope, evaluate, evaluate_item
from .phrases import Phrase, phrasebook

_BOUNDS = {
    "==": "{}",
    "!=": "not {}",
    "<": "less than {}",
    "<=": "at most {}",
    ">": "more than {}",
    ">=": "at least {}",
}
_OF_VERSIONS = {**_BOUNDS, "<": "older than {}", ">": "newer than {}"}
_OPPOSITE = {"==": "!=", "!=": "==", "<": ">=", ">=": "<", ">": "<=", "<=": ">", "in": "not in", "not in": "in"}
_STORAGE = ("free", "capacity", "size", "unused")  # said in GB, as disks are sold; memory is said in GiB


@dataclass(frozen=True, slots=True)
class Test:
    """One test in words.

    `about` is what it is about: "reading", "volume", "item", or empty where the words say so themselves. `how` the
    words are said of that: "is", "with" (verb: has) or "that" (they begin with a verb).
    """

    about: str
    how: str
    words: str

    @property
    def verb(self) -> str:
        """`is attached`, `has 41 GB free`, `offers it`."""
        return {"is": f"is {self.words}", "with": f"has {self.words}"}.get(self.how, self.words)


@dataclass(frozen=True, slots=True)
class Explained:
    """Why a reading fails a condition, both behind its title: what is there, and what the house wants instead."""

    there: str
    wants: str


def in_tests(node: syntax.Node) -> syntax.Node:
    """The same condition with every denial brought down to the tests (De Morgan)."""
    match node:
        case syntax.Not(part=part):
            return _denied(part)
        case syntax.Logic(parts=parts):
            return replace(node, parts=tuple(map(in_tests, parts)))
        case syntax.Over(condition=condition):
            return replace(node, condition=in_tests(condition))
    return node


def _denied(node: syntax.Node) -> syntax.Node:
    match node:
        case syntax.Not(part=part):
            return in_tests(part)
        case syntax.Logic(word=word, parts=parts):
            return replace(node, word="or" if word == "and" else "and", parts=tuple(map(_denied, parts)))
        case syntax.Compare(sign=sign):
            return replace(node, sign=_OPPOSITE[sign])
    return syntax.Not(node.start, node.end, in_tests(node))


class Speaker:
    """Speaks the expressions of one setting's rules; without a setting those of layers and groups.

    `item` is the record of what a list holds, inside its condition.
    """

    def __init__(self, setting: Setting | None = None, *, item: str = "") -> None:
        self.setting, self.item = setting, item

    # Conditions

    def condition(self, node: syntax.Node) -> str:
        """A clause that stands by itself: `the seat's role is offline and RAW scale is less than 1`."""
        return self._clause(in_tests(node))

    def wants(self, node: syntax.Node) -> str:
        """What is wanted of a reading, behind its title: `lies on a volume that is attached`."""
        return self._of_reading(in_tests(node))

    def _of_reading(self, node: syntax.Node) -> str:
        parts = node.parts if isinstance(node, syntax.Logic) else (node,)
        word = node.word if isinstance(node, syntax.Logic) else "and"
        of_volume = [part for part in parts if self._about(part) == "volume"]
        spoken = []
        if of_volume and word == "and":
            spoken.append(f"lies on {self._thing('a volume', of_volume)}")
            parts = tuple(part for part in parts if part not in of_volume)
        for part in parts:
            inner = self._about(part)
            if inner == "volume":
                spoken.append(f"lies on {self._thing('a volume', [part])}")
            elif inner == "reading":
                spoken.append(self._verb(part))
            else:
                spoken.append(self._clause(part))
        return f", {word} ".join(spoken)

    def _clause(self, node: syntax.Node) -> str:
        about = self._about(node)
        if about:
            subject = {"reading": "it", "volume": "its volume", "item": "it"}[about]
            return f"{subject} {self._verb(node)}"
        match node:
            case syntax.Logic(word=word, parts=parts):
                spoken = [self._clause(part) for part in parts]
                deep = any(isinstance(part, syntax.Logic) for part in parts)
                return f"{',' if deep else ''} {word} ".join(spoken)
            case syntax.Not(part=syntax.Over(name="any") as over):
                return f"none of {self._list(over)} {self._inside(over)._verb_of_items(over.condition)}"
            case syntax.Not(part=syntax.Over(name="all") as over):
                return f"not every one of {self._list(over)} {self._inside(over)._verb_of_items(over.condition)}"
            case syntax.Over(name="any"):
                return f"one of {self._list(node)} {self._inside(node)._verb_of_items(node.condition)}"
            case syntax.Over(name="all"):
                return f"each of {self._list(node)} {self._inside(node)._verb_of_items(node.condition)}"
            case syntax.Not(part=syntax.Named(name=name)):
                return f"the seat is not of the group {name}"
            case syntax.Named(name=name):
                return f"the seat is of the group {name}"
            case syntax.Literal(value=value):
                return "always" if value else "never"
        return self._test(node).words

    def _verb_of_items(self, condition: syntax.Node) -> str:
        return self._verb(condition) if self._about(condition) == "item" else f"is such that {self._clause(condition)}"

    def _thing(self, noun: str, tests: Sequence[syntax.Node]) -> str:
        """`a volume that is attached, not the system's, with at least 120 GB free`."""
        if not all(map(_is_test, tests)):
            return f"{noun} that {' and '.join(self._verb(part) for part in tests)}"
        spoken = [self._test(part) for part in tests]
        being = [test.words for test in spoken if test.how == "is"]
        having = [test.words for test in spoken if test.how == "with"]
        doing = [test.words for test in spoken if test.how == "that"]
        words = noun
        if being or doing:
            is_so = [f"is {', '.join(being)}"] if being else []
            words += f" that {listed([*is_so, *doing])}"
        if having:
            words += f"{',' if being or doing else ''} with {listed(having)}"
        return words

    def _verb(self, node: syntax.Node) -> str:
        """What is said of the one thing that all tests of a node are about."""
        match node:
            case syntax.Logic(word="and", parts=parts) if all(map(_is_test, parts)):
                return listed(_verbs([self._test(part) for part in parts]))
            case syntax.Logic(word=word, parts=parts):
                return f", {word} ".join(self._verb(part) for part in parts)
        return self._test(node).verb

    # Tests

    def _about(self, node: syntax.Node) -> str:
        """What every test in a node is about, where that is one thing."""
        match node:
            case syntax.Logic(parts=parts):
                topics = {self._about(part) for part in parts}
                return topics.pop() if len(topics) == 1 else ""
            case syntax.Not(part=syntax.Name() as name):
                return _topic(name)
            case syntax.Name():
                return _topic(node)
            case syntax.Compare(left=left, right=right):
                return (_topic(right) if _topic(right) == "item" else "") or _topic(left)
        return ""

    def _test(self, node: syntax.Node) -> Test:
        match node:
            case syntax.Name():
                return self._truth(node, yes=True)
            case syntax.Not(part=syntax.Name() as name):
                return self._truth(name, yes=False)
            case syntax.Compare():
                return self._compared(node)
            case syntax.SettingOf(key=key):
                return Test("", "", f"{catalogue()[key].title} is {catalogue()[key].show(True)}")
            case syntax.Not(part=syntax.SettingOf(key=key)):
                return Test("", "", f"{catalogue()[key].title} is {catalogue()[key].show(False)}")
        return Test("", "", f"it holds that {self.value(node)}")

    def _truth(self, name: syntax.Name, *, yes: bool) -> Test:
        phrase, topic = self._phrase(name), _topic(name)
        words = phrase.yes if yes else phrase.no
        if topic == "reading":
            return Test(topic, "is", "on" if yes else "off")
        if not topic:
            return Test("", "", f"{self.value(name)} is {words or ('true' if yes else 'false')}")
        return Test(topic, "is", words or f"{'' if yes else 'not '}{phrase.noun}")

    def _compared(self, node: syntax.Compare) -> Test:
        if node.sign in ("in", "not in") and not isinstance(node.right, syntax.Several):
            return self._in_list(node)
        return self._bound(node, self._bound_words(node))

    def _in_list(self, node: syntax.Compare) -> Test:
        held = "it" if _topic(node.left) == "reading" else self.value(node.left)
        denied = node.sign == "not in"
        if _topic(node.right) == "item" and isinstance(node.right, syntax.Name):
            holds = self._phrase(node.right).holds or f"has {{}} among its {self._phrase(node.right).noun}"
            verb, _, rest = holds.format(held).partition(" ")
            return Test("item", "that", f"does not {verb.removesuffix('s')} {rest}" if denied else f"{verb} {rest}")
        one_of = f"{'not ' if denied else ''}one of {self.value(node.right)}"
        if _topic(node.left) in ("reading", "item", "volume"):
            return Test(_topic(node.left), "is", one_of)
        return Test("", "", f"{held} is {one_of}")

    def _bound_words(self, node: syntax.Compare) -> str:
        """`at least 120 GB`, `nvme or ssd`, `not cpu`."""
        if isinstance(node.right, syntax.Several):
            names = [self._literal(item, node.left) for item in node.right.items]
            words = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"
            return words if node.sign == "in" else f"not {words}"
        bounds = _OF_VERSIONS if getattr(node.left, "dimension", None) is Dimension.VERSION else _BOUNDS
        return bounds[node.sign].format(self._literal(node.right, node.left))

    def _bound(self, node: syntax.Compare, bound: str) -> Test:
        topic = _topic(node.left)
        if topic == "reading":
            return Test(topic, "is", bound)
        if not topic or not isinstance(node.left, syntax.Name):
            return Test("", "", f"{self.value(node.left)} is {bound}")
        return self._had(self._phrase(node.left), topic, bound)

    @staticmethod
    def _had(phrase: Phrase, topic: str, bound: str) -> Test:
        if phrase.kind:
            denied = bound.startswith("not ")
            return Test(topic, "is", f"{'not ' if denied else ''}{phrase.kind.format(bound.removeprefix('not '))}")
        return Test(topic, "with", phrase.has.format(bound) if phrase.has else f"the {phrase.noun} {bound}")

    # Values

    def value(self, node: syntax.Node) -> str:
        """`4 GiB or 10 % of installed memory, whichever is more`."""
        match node:
            case syntax.Literal():
                return self._literal(node, node)
            case syntax.Name():
                return self._noun(node)
            case syntax.SettingOf(key=key):
                return catalogue()[key].title
            case syntax.Share(share=share, of=of):
                return f"{float(share or 0) * 100:g} % of {self.value(of)}"
            case syntax.Arithmetic(sign=sign, left=left, right=right):
                word = {"+": "plus", "-": "less", "*": "times", "/": "divided by"}[sign]
                return f"{self.value(left)} {word} {self._literal(right, left)}"
            case syntax.Call():
                return self._called(node)
            case syntax.Several(items=items):
                return listed(self.value(item) for item in items)
            case syntax.Over(name="first"):
                return f"the first of {self._list(node)} that {self._inside(node)._verb_of_items(node.condition)}"
            case syntax.Over():
                inside = self._inside(node)._verb_of_items(node.condition)
                return f"the number of {self._list(node)} each of which {inside}"
            case syntax.Field(of=of, path=path):
                record = _record_of(of)
                phrase = phrasebook().get(record, {}).get(".".join(path), Phrase(noun=" ".join(path)))
                return f"the {phrase.noun} of {self.value(of)}"
        return str(node)

    def _called(self, node: syntax.Call) -> str:
        spoken = [self.value(argument) for argument in node.arguments]
        if node.name in ("round", "floor"):
            return f"{spoken[0]}, rounded{' down' if node.name == 'floor' else ''}"
        most = node.name == "max"
        if len(spoken) == 2:
            return f"{spoken[0]} or {spoken[1]}, whichever is {'more' if most else 'less'}"
        return f"the {'largest' if most else 'smallest'} of {listed(spoken)}"

    def _literal(self, node: syntax.Node, beside: syntax.Node) -> str:
        """A constant as what stands beside it is shown: a setting's value in its words, storage in GB."""
        if not isinstance(node, syntax.Literal):
            return self.value(node)
        value = node.value
        if isinstance(value, Version):
            return value.text
        setting = self.setting if _topic(beside) == "reading" else None
        if isinstance(beside, syntax.SettingOf):
            setting = catalogue()[beside.key]
        return setting.show(value) if setting else _shown(value, node.dimension, beside)

    def _noun(self, name: syntax.Name) -> str:
        topic = _topic(name)
        if topic == "reading":
            return "it"
        noun = self._phrase(name).noun
        owner = {"volume": "its volume's ", "item": "its "}.get(topic, "")
        return f"{'its ' if name.root == 'app' else owner}{noun}" if noun else "it"

    def _phrase(self, name: syntax.Name) -> Phrase:
        record = self.item if name.root == "item" else name.root
        return phrasebook().get(record, {}).get(".".join(name.path)) or Phrase(noun=" ".join(name.path))

    def _list(self, over: syntax.Over) -> str:
        return self.value(over.items) if not _is_stores(over.items) else "its stores"

    def _inside(self, over: syntax.Over) -> "Speaker":
        return Speaker(self.setting, item=_record_of(over))

    # What is there

    def explained(self, node: syntax.Node, scope: Scope) -> Explained:
        """Why this reading fails the condition: only what failed. Meant for a condition that is false of the scope."""
        failed = _failed(in_tests(node), lambda part: evaluate(part, scope))
        of_volume = [part for part in failed if self._about(part) == "volume"]
        there, wants = list[str](), list[str]()
        if of_volume and scope.volume:
            states = [self._state(part, lambda name: evaluate(name, scope)) for part in of_volume]
            there.append(f"lies on {scope.volume.id}, which {listed(_verbs(states))}")
            wants.append(self._thing("a volume", of_volume))
        for part in failed:
            if part in of_volume:
                continue
            state, wanted = self._failure(part, scope)
            there.append(state)
            wants.append(wanted)
        if not there or not (of_volume or there[0].startswith("is ")):
            there.insert(0, f"is {self._reading(scope)}")
        return Explained("; ".join(dict.fromkeys(there)), listed(dict.fromkeys(wants)))

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
        return f"{_name_of(items[best])} {listed(_verbs(states))}"

    def _those_that_fail(self, over: syntax.Over, scope: Scope) -> str:
        inside, spoken = self._inside(over), list[str]()
        for item in evaluate(over.items, scope):
            lacks = _failed(over.condition, _on_item(scope, item))
            if lacks:
                states = [inside._state(part, _on_item(scope, item)) for part in lacks]
                spoken.append(f"{_name_of(item)} {listed(_verbs(states))}")
        return listed(spoken)

    def _state(self, node: syntax.Node, known: Callable[[syntax.Node], Any]) -> Test:
        """How it is, where a test fails."""
        match node:
            case syntax.Name():
                return self._truth(node, yes=False)
            case syntax.Not(part=syntax.Name() as name):
                return self._truth(name, yes=True)
            case syntax.Compare(sign="in" | "not in") if not isinstance(node.right, syntax.Several):
                return self._in_list(replace(node, sign=_OPPOSITE[node.sign]))
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


def _is_test(node: syntax.Node) -> bool:
    """Whether it is one test, and no tree of them."""
    inner = node.part if isinstance(node, syntax.Not) else node
    return not isinstance(inner, syntax.Logic | syntax.Over | syntax.Named)


def _verbs(tests: Sequence[Test]) -> list[str]:
    """`is a, b`, `has c`, `offers d`: what is only so is said in one."""
    being = list(dict.fromkeys(test.words for test in tests if test.how == "is"))
    being.sort(key=lambda words: words.startswith("not "))  # "is not a and b" would deny both
    others = dict.fromkeys(test.verb for test in tests if test.how != "is")
    together = f"is {', '.join(being) if others else listed(being)}"
    return [*([together] if being else []), *others]


def _known_text(value: Any, node: syntax.Node, speaker: Speaker) -> str:
    if isinstance(value, Missing):
        return "unknown"
    if _topic(node) == "reading" and speaker.setting:
        return speaker.setting.show(value)
    if isinstance(node, syntax.SettingOf):
        return catalogue()[node.key].show(value)
    return value.text if isinstance(value, Version) else _shown(value, getattr(node, "dimension", None), node)


def _shown(value: Any, dimension: Dimension | None, beside: syntax.Node) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    storage = any(name.path[-1:] and name.path[-1] in _STORAGE for name in syntax.names_of(beside))
    return show(value, dimension or Dimension.NUMBER, unit="GB" if storage and dimension is Dimension.BYTES else "")


def _topic(node: syntax.Node) -> str:
    return node.root if isinstance(node, syntax.Name) and node.root in ("reading", "volume", "item") else ""


def _is_stores(node: syntax.Node) -> bool:
    return isinstance(node, syntax.Name) and node.root == "stores"


def _record_of(node: syntax.Node) -> str:
    """The record of what a list holds."""
    if isinstance(node, syntax.Over):
        return _record_of(node.items)
    if _is_stores(node):
        return "store"
    if isinstance(node, syntax.Name):
        phrase = phrasebook().get("facts", {}).get(".".join(node.path))
        return phrase.of if phrase else ""
    return ""


def _name_of(item: Any) -> str:
    return str(getattr(item, "id", None) or getattr(item, "path", None) or item)
