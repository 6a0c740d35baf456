"""Published shapes that come from core's own structs: what core tells is described once, where it is made."""

import dataclasses
import types
from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

import msgspec
from ninja import Schema
from pydantic import create_model

S = TypeVar("S", bound=Schema)
_LISTS = (list, tuple, frozenset, set, Sequence, Collection)
_ANSWERS: dict[type, type[Schema]] = {}


def answer_of(kind: type, *, without: Collection[str] = ()) -> Callable[[type[S]], type[S]]:
    """Decorates a schema: it has the fields of core's struct or dataclass `kind`, those that it declares itself win.

    A struct within is published by the answer that was made of it before; a tuple of one kind as a list. A field
    that core leaves out where it is as usual has that default. Raises TypeError where a part has no answer yet.
    """

    def make(declared: type[S]) -> type[S]:
        own = {name: (field.annotation, field) for name, field in declared.model_fields.items()}
        fields = {**_fields(kind, {*without, *own}), **own}
        answer = create_model(  # type: ignore[call-overload] # the fields are known here and not before
            declared.__name__,
            __base__=declared.__bases__,
            __doc__=declared.__doc__,
            __module__=declared.__module__,
            **fields,
        )
        _ANSWERS.setdefault(kind, answer)
        made: type[S] = answer
        return made

    return make


def _fields(kind: type, without: Collection[str]) -> dict[str, tuple[Any, Any]]:
    """Each other field with its published type and its default, `...` where there is none."""
    hints = get_type_hints(kind)
    if dataclasses.is_dataclass(kind):
        defaults = dict.fromkeys((field.name for field in dataclasses.fields(kind)), ...)
    else:
        omits = kind.__struct_config__.omit_defaults  # type: ignore[attr-defined] # a struct has one
        defaults = {f.name: _default(f.default) if omits else ... for f in msgspec.structs.fields(kind)}
    return {name: (_published(hints[name]), default) for name, default in defaults.items() if name not in without}


def _default(value: Any) -> Any:
    return ... if value is msgspec.NODEFAULT else list(value) if isinstance(value, tuple) else value


def _published(hint: Any) -> Any:
    """A type of core as JSON has it."""
    origin, parts = get_origin(hint), get_args(hint)
    if hint in _ANSWERS:
        return _ANSWERS[hint]
    if origin in (Union, types.UnionType):
        return Union[tuple(_published(part) for part in parts)]  # noqa: UP007 - made of a tuple
    if origin is Literal or origin is None:
        return _plain(hint)
    if issubclass(origin, Mapping):
        return dict[_published(parts[0]), _published(parts[1])]  # type: ignore[misc]
    if origin is tuple and len({*parts} - {...}) > 1:
        return tuple[tuple(_published(part) for part in parts)]  # type: ignore[misc]
    if issubclass(origin, _LISTS):
        return list[_published(parts[0])]  # type: ignore[misc]
    raise TypeError(f"nobody says how {hint} is published")


def _plain(hint: Any) -> Any:
    if isinstance(hint, type) and (dataclasses.is_dataclass(hint) or issubclass(hint, msgspec.Struct)):
        raise TypeError(f"{hint.__name__} has no answer yet: make it before what holds it")
    return hint
