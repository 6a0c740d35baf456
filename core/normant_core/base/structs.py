"""What is known of our types, learnt before a second thread can ask for it."""

import contextlib
from collections.abc import Iterator

import msgspec

_learnt = set[type[msgspec.Struct]]()


def learn_structs() -> None:
    """Let msgspec learn every struct that is loaded, one after the other.

    It learns a type when that is first decoded, and two threads that decode the same new type at the same instant end
    the process (a segmentation fault, seen in msgspec 0.22). So a program that has more than one thread calls this
    once its modules are loaded, before it starts the second.
    """
    for struct in _below(msgspec.Struct):
        if struct not in _learnt:
            with contextlib.suppress(TypeError):  # what msgspec cannot decode (a syntax tree) no thread decodes
                msgspec.json.Decoder(struct)
            _learnt.add(struct)


def _below(kind: type[msgspec.Struct]) -> Iterator[type[msgspec.Struct]]:
    for inner in kind.__subclasses__():
        yield inner
        yield from _below(inner)
