"""Expressions as people say them: no name of a fact, no sign and no bracket is left.

A condition is a tree of tests. Each test is about something: the reading that a rule judges, the volume that a path
is on, an item of a list, or the seat as a whole. Tests about one thing are said together ("a volume that is attached,
not the system's, with at least 120 GB free"), everything else as a clause of its own. What is denied is first brought
down to the tests, where it has words of its own ("not the system's", "less than").
"""

from collections.abc import Callable, Sequence
from typing import Any, Self

import msgspec
from msgspec.structs import replace

from ..base.quantities import Dimension, Version, show
from ..base.wording import listed
from ..catalogue.settings import Setting, catalogue
from . import syntax
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
OPPOSITE = {"==": "!=", "!=": "==", "<": ">=", ">=": "<", ">": "<=", "<=": ">", "in": "not in", "not in": "in"}
_SIGNS = {"+": "plus", "-": "less", "*": "times", "/": "divided by"}
# By what is asked of a list's items, and whether that is denied.
_HOW_MANY = {
    ("any", False): "one of",
    ("any", True): "none of",
    ("all", False): "each of",
    ("all", True): "not every one of",
}
_STORAGE = frozenset(("free", "capacity", "size", "unused"))  # said in GB, as disks are sold; memory is said in GiB


class Test(msgspec.Struct, frozen=True):
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
            return replace(node, sign=OPPOSITE[sign])
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
        """What is wanted of a reading, behind its title: `is on a volume that is attached`."""
        return self._of_reading(in_tests(node))

    def _of_reading(self, node: syntax.Node) -> str:
        parts = node.parts if isinstance(node, syntax.Logic) else (node,)
        word = node.word if isinstance(node, syntax.Logic) else "and"
        # What is wanted of one volume is said of it together; of several ways each is a volume of its own.
        together = [part for part in parts if self._about(part) == "volume"] if word == "and" else []
        spoken = [f"is on {self._thing('a volume', together)}"] if together else []
        spoken += [self._wanted(part) for part in parts if part not in together]
        return f", {word} ".join(spoken)

    def _wanted(self, part: syntax.Node) -> str:
        match self._about(part):
            case "volume":
                return f"is on {self._thing('a volume', [part])}"
            case "reading":
                return self._verb(part)
        return self._clause(part)

    def _clause(self, node: syntax.Node) -> str:
        about = self._about(node)
        if about:
            subject = {"reading": "it", "volume": "its volume", "item": "it"}[about]
            return f"{subject} {self._verb(node)}"
        match node:
            case syntax.Logic():
                return self._joined(node)
            case syntax.Over(name="any" | "all") | syntax.Not(part=syntax.Over(name="any" | "all")):
                return self._of_list(node)
            case syntax.Not(part=syntax.Named(name=name)):
                return f"the seat is not of the group {name}"
            case syntax.Named(name=name):
                return f"the seat is of the group {name}"
            case syntax.Literal(value=value):
                return "always" if value else "never"
        return self._test(node).words

    def _joined(self, node: syntax.Logic) -> str:
        deep = any(isinstance(part, syntax.Logic) for part in node.parts)
        return f"{',' if deep else ''} {node.word} ".join(map(self._clause, node.parts))

    def _of_list(self, node: syntax.Over | syntax.Not) -> str:
        """`one of its GPUs is enabled`, `none of`, `each of`, `not every one of`."""
        over = node.part if isinstance(node, syntax.Not) else node
        assert isinstance(over, syntax.Over)
        how = _HOW_MANY[over.name, isinstance(node, syntax.Not)]
        return f"{how} {self._list(over)} {self._inside(over)._verb_of_items(over.condition)}"

    def _verb_of_items(self, condition: syntax.Node) -> str:
        return self._verb(condition) if self._about(condition) == "item" else f"is such that {self._clause(condition)}"

    def _thing(self, noun: str, tests: Sequence[syntax.Node]) -> str:
        """`a volume that is attached, not the system's, with at least 120 GB free`."""
        if not all(map(_is_test, tests)):
            return f"{noun} that {' and '.join(map(self._verb, tests))}"
        said_how: dict[str, list[str]] = {"is": [], "that": [], "with": []}
        for test in map(self._test, tests):
            said_how.setdefault(test.how, []).append(test.words)
        being = [f"is {', '.join(said_how['is'])}"] if said_how["is"] else []
        clauses = listed([*being, *said_how["that"]])
        words = f"{noun} that {clauses}" if clauses else noun
        having = listed(said_how["with"])
        return f"{words}{',' if clauses else ''} with {having}" if having else words

    def _verb(self, node: syntax.Node) -> str:
        """What is said of the one thing that all tests of a node are about."""
        match node:
            case syntax.Logic(word="and", parts=parts) if all(map(_is_test, parts)):
                return listed(verbs([self._test(part) for part in parts]))
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
                return topic_of(name)
            case syntax.Name():
                return topic_of(node)
            case syntax.Compare(left=left, right=right):
                return "item" if topic_of(right) == "item" else topic_of(left)
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
        phrase, topic = self._phrase(name), topic_of(name)
        words = phrase.yes if yes else phrase.no
        true, on, no = ("true", "on", "") if yes else ("false", "off", "not ")
        if topic == "reading":
            return Test(topic, "is", on)
        if not topic:
            return Test("", "", f"{self.value(name)} is {words or true}")
        return Test(topic, "is", words or f"{no}{phrase.noun}")

    def _compared(self, node: syntax.Compare) -> Test:
        if node.sign in ("in", "not in") and not isinstance(node.right, syntax.Several):
            return self._in_list(node)
        return self._bound(node, self._bound_words(node))

    def _item_holds(self, name: syntax.Name, held: str, *, denied: bool) -> Test:
        """`that decodes hevc/10/420`, `that does not decode it`: whether an item has something among its own list."""
        phrase = self._phrase(name)
        holds = phrase.holds or f"has {{}} among its {phrase.noun}"
        verb, _, rest = holds.format(held).partition(" ")
        return Test("item", "that", f"does not {verb.removesuffix('s')} {rest}" if denied else f"{verb} {rest}")

    def _in_list(self, node: syntax.Compare) -> Test:
        held = "it" if topic_of(node.left) == "reading" else self.value(node.left)
        denied = node.sign == "not in"
        if topic_of(node.right) == "item" and isinstance(node.right, syntax.Name):
            return self._item_holds(node.right, held, denied=denied)
        one_of = f"{'not ' if denied else ''}one of {self.value(node.right)}"
        if topic_of(node.left) in ("reading", "item", "volume"):
            return Test(topic_of(node.left), "is", one_of)
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
        topic = topic_of(node.left)
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
        speak = _VALUES.get(type(node))
        return speak(self, node) if speak else str(node)

    def _constant(self, node: syntax.Literal) -> str:
        return self._literal(node, node)

    def _title(self, node: syntax.SettingOf) -> str:
        return catalogue()[node.key].title

    def _share(self, node: syntax.Share) -> str:
        return f"{float(node.share or 0) * 100:g} % of {self.value(node.of)}"

    def _arithmetic(self, node: syntax.Arithmetic) -> str:
        return f"{self.value(node.left)} {_SIGNS[node.sign]} {self._literal(node.right, node.left)}"

    def _several(self, node: syntax.Several) -> str:
        return listed(map(self.value, node.items))

    def _chosen(self, node: syntax.Over) -> str:
        which = self._inside(node)._verb_of_items(node.condition)
        if node.name == "first":
            return f"the first of {self._list(node)} that {which}"
        return f"the number of {self._list(node)} each of which {which}"

    def _field(self, node: syntax.Field) -> str:
        record = _record_of(node.of)
        phrase = phrasebook().get(record, {}).get(".".join(node.path), Phrase(noun=" ".join(node.path)))
        return f"the {phrase.noun} of {self.value(node.of)}"

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
        setting = self.setting if topic_of(beside) == "reading" else None
        if isinstance(beside, syntax.SettingOf):
            setting = catalogue()[beside.key]
        return setting.show(value) if setting else shown(value, node.dimension, beside)

    def _noun(self, name: syntax.Name) -> str:
        topic = topic_of(name)
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

    def _inside(self, over: syntax.Over) -> Self:
        return type(self)(self.setting, item=_record_of(over))


_VALUES: dict[type[syntax.Node], Callable[[Speaker, Any], str]] = {
    syntax.Literal: Speaker._constant,
    syntax.Name: Speaker._noun,
    syntax.SettingOf: Speaker._title,
    syntax.Share: Speaker._share,
    syntax.Arithmetic: Speaker._arithmetic,
    syntax.Call: Speaker._called,
    syntax.Several: Speaker._several,
    syntax.Over: Speaker._chosen,
    syntax.Field: Speaker._field,
}


def _is_test(node: syntax.Node) -> bool:
    """Whether it is one test, and no tree of them."""
    inner = node.part if isinstance(node, syntax.Not) else node
    return not isinstance(inner, syntax.Logic | syntax.Over | syntax.Named)


def verbs(tests: Sequence[Test]) -> list[str]:
    """`is a, b`, `has c`, `offers d`: what is only so is said in one."""
    being = list(dict.fromkeys(test.words for test in tests if test.how == "is"))
    being.sort(key=lambda words: words.startswith("not "))  # "is not a and b" would deny both
    others = dict.fromkeys(test.verb for test in tests if test.how != "is")
    together = f"is {', '.join(being) if others else listed(being)}"
    return [*([together] if being else []), *others]


def shown(value: Any, dimension: Dimension | None, beside: syntax.Node) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    of_storage = dimension is Dimension.BYTES and any(map(_is_of_storage, syntax.names_of(beside)))
    return show(value, dimension or Dimension.NUMBER, unit="GB" if of_storage else "")


def _is_of_storage(name: syntax.Name) -> bool:
    return not _STORAGE.isdisjoint(name.path[-1:])


def topic_of(node: syntax.Node) -> str:
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
