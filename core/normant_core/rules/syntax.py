"""What an expression is made of. `start` and `end` are offsets in the source text."""

import msgspec

from ..base.quantities import Dimension, Value, Version


class Node(msgspec.Struct, frozen=True):
    """Any part of an expression."""

    start: int
    end: int


class Literal(Node, frozen=True):
    """A constant in base units."""

    value: Value | Version
    dimension: Dimension


class Name(Node, frozen=True):
    """A dotted name; `root` says where it is found once the checker has been."""

    path: tuple[str, ...]
    root: str = ""
    dimension: Dimension | None = None


class SettingOf(Node, frozen=True):
    """`setting('playback.raw_scale')`: the reading of another setting of the same application."""

    key: str
    dimension: Dimension | None = None


class Share(Node, frozen=True):
    """`10 % of memory.total`."""

    share: Value
    of: Node


class Arithmetic(Node, frozen=True):
    """`left sign right` with + - * /."""

    sign: str
    left: Node
    right: Node


class Compare(Node, frozen=True):
    """`left sign right` with == != < <= > >= in, not in."""

    sign: str
    left: Node
    right: Node


class Logic(Node, frozen=True):
    """`and` or `or` of two or more."""

    word: str
    parts: tuple[Node, ...]


class Not(Node, frozen=True):
    """`not part`."""

    part: Node


class Call(Node, frozen=True):
    """`min max round floor` of values."""

    name: str
    arguments: tuple[Node, ...]


class Over(Node, frozen=True):
    """`any all count first` over a list, with a condition on each item."""

    name: str
    items: Node
    condition: Node


class Field(Node, frozen=True):
    """`first(gpus, enabled).memory`."""

    of: Node
    path: tuple[str, ...]
    dimension: Dimension | None = None


class Several(Node, frozen=True):
    """`['nvme', 'ssd']`."""

    items: tuple[Node, ...]


class Named(Node, frozen=True):
    """A group of seats by its name; `of` is its condition, whose places are in another text."""

    name: str
    of: Node


def children(node: Node) -> tuple[Node, ...]:
    """The parts of a node, in order."""
    match node:
        case Share(of=of) | Field(of=of) | Named(of=of):
            return (of,)
        case Arithmetic(left=left, right=right) | Compare(left=left, right=right):
            return (left, right)
        case Logic(parts=parts):
            return parts
        case Not(part=part):
            return (part,)
        case Call(arguments=arguments):
            return arguments
        case Over(items=items, condition=condition):
            return (items, condition)
        case Several(items=several):
            return several
    return ()


class Unsound(Node, frozen=True):
    """An expression of an edition that was published before there was a bound on it: what it says stays unread."""

    why: str


class Extent(msgspec.Struct, frozen=True):
    """How deep and how large an expression is, in nodes, the groups that it names unfolded."""

    depth: int
    size: int


def extent(node: Node) -> Extent:
    """Without recursion, and in the time that the tree has parts: groups share theirs."""
    known = dict[int, Extent]()
    waiting = [node]
    while waiting:
        here = waiting[-1]
        parts = children(here)
        missing = [part for part in parts if id(part) not in known]
        if missing:
            waiting += missing
            continue
        inner = [known[id(part)] for part in parts]
        known[id(here)] = Extent(
            1 + max((part.depth for part in inner), default=0), 1 + sum(part.size for part in inner)
        )
        waiting.pop()
    return known[id(node)]


def settings_named(node: Node) -> list[str]:
    """The keys of every `setting(...)` inside, in order."""
    own = [node.key] if isinstance(node, SettingOf) else []
    return own + [key for child in children(node) for key in settings_named(child)]


_OF_SEAT = ("facts", "seat", "stores")


def _roots(node: Node) -> set[str]:
    return {name.root for name in names_of(node)}


def is_of_seat(node: Node) -> bool:
    """Whether a node says the same for every reading of a seat: it looks at facts and the register alone."""
    match node:
        case Name(root=root):
            return root in _OF_SEAT
        case SettingOf():
            return False
        case Over(items=items, condition=condition):
            return is_of_seat(items) and not settings_named(condition) and _roots(condition) <= {*_OF_SEAT, "item"}
    return all(is_of_seat(child) for child in children(node))


def names_of(node: Node) -> list[Name]:
    """Every name inside, in order."""
    own = [node] if isinstance(node, Name) else []
    return own + [name for child in children(node) for name in names_of(child)]
