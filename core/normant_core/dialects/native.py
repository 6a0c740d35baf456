"""Between a file's native text and a setting's canonical value, by one binding of a dialect."""

import math
import operator
import re
from fractions import Fraction
from typing import Literal

from ..base.errors import FileError
from ..base.quantities import UNITS, Dimension, Number, Plain, Value, tidy
from ..catalogue.settings import Kind, Setting, catalogue
from ..formats.span import Scalar
from ..rules.evaluate import Missing, Scope, evaluate
from ..seat.facts import Facts, Seat
from .dialect import Binding, meaning

Rounding = Literal["up", "down", "nearest"]
_NUMBER = re.compile(r"\s*(\d{1,40}(?:\.\d{1,40})?)(?:\s*/\s*(?=\d*[1-9])(\d{1,40}))?\s*")


def decode(binding: Binding, raw: str, facts: Facts | None = None) -> Value:
    """The canonical value of native text; `facts` say what automatic values come to.

    Raises NormantError where the text means nothing, or where only the application knows what it means.
    """
    setting = catalogue()[binding.setting]
    if raw == "" and binding.empty is not None:
        return math.inf if binding.empty == "none" else setting.parse(binding.empty)
    if raw in binding.automatic:
        return setting.parse(_automatic(binding, raw, facts))
    if binding.values:
        return setting.parse(_meant(binding, raw))
    return setting.parse(_literal(binding, setting, raw, facts))


def _meant(binding: Binding, raw: str) -> Plain:
    """What a native word stands for."""
    if raw not in binding.values:
        raise FileError(f"{raw[:40]!r} is none of {', '.join(binding.values)}")
    return binding.values[raw]


def _automatic(binding: Binding, raw: str, facts: Facts | None) -> Value:
    """What a word comes to that leaves the value to the application."""
    if not binding.automatic[raw]:
        raise FileError(
            f"{raw[:40]!r} leaves the value to the application, and the dialect does not say which value it uses"
        )
    return _by_facts(catalogue()[binding.setting], binding.automatic[raw], facts)


def _truth(raw: str) -> bool:
    if raw.lower() not in ("true", "false"):
        raise FileError(f"{raw[:40]!r} is neither true nor false")
    return raw.lower() == "true"


def _literal(binding: Binding, setting: Setting, raw: str, facts: Facts | None) -> Value:
    """What native text says that stands for itself: a truth, a folder, a word or a number."""
    if setting.kind is Kind.BOOL:
        return _truth(raw)
    if setting.kind is Kind.PATH:
        return _folder(binding, raw)
    if setting.dimension is Dimension.TEXT or setting.kind is Kind.VERSION:
        return raw
    value = tidy(Fraction(_number(raw) * _factor(binding, facts)))
    return math.floor(value) if binding.of and setting.kind in (Kind.BYTES, Kind.INT) else value


def absent(binding: Binding) -> Value | None:
    """What the application does while the key is not in its file; None where the dialect does not say."""
    if binding.missing is None:
        return None
    return catalogue()[binding.setting].parse(binding.missing)


def encode(binding: Binding, value: Value, *, rounding: Rounding = "nearest", facts: Facts | None = None) -> str:
    """The native text for a canonical value, rounded to what the file can say. Raises FileError."""
    native = _spelled(binding, value, rounding, facts)
    if native in binding.automatic:
        raise FileError(f"{binding.setting}: {native!r} leaves the value to the application")
    return native


def settle(binding: Binding, value: Value, rounding: Rounding, facts: Facts | None = None) -> tuple[str, Value]:
    """The native text nearest to `value`, and the canonical value that it really says.

    Raises FileError for a value that the file cannot say, or that the application is known to clamp.
    """
    _within(binding, value)
    native = encode(binding, value, rounding=rounding, facts=facts)
    decoded = decode(binding, native, facts)
    return native, tidy(decoded) if isinstance(decoded, Fraction) else decoded


def scalar(binding: Binding, native: str) -> Scalar:
    """Native text as a value for a file that does not hold the key yet."""
    setting = catalogue()[binding.setting]
    textual = setting.dimension is Dimension.TEXT or setting.kind is Kind.VERSION
    return Scalar("text", native) if textual and not binding.values else Scalar.of_word(native)


def _by_facts(setting: Setting, text: str, facts: Facts | None) -> Value:
    node = meaning(setting, text)
    assert node is not None
    value = evaluate(node, Scope(facts or Facts(), Seat(""), {}))
    if isinstance(value, Missing):
        raise FileError(f"what this comes to depends on {value.what}, which was not read")
    if isinstance(value, Fraction) and setting.kind in (Kind.BYTES, Kind.INT):
        return math.floor(value)
    assert value is None or isinstance(value, bool | int | float | Fraction | str)
    return value


def _folder(binding: Binding, raw: str) -> str:
    for begin, real in binding.folders.items():
        if raw == begin or raw.startswith((begin + "/", begin + "\\")):
            return real + raw[len(begin) :]
    return raw


def _number(raw: str) -> Fraction:
    match = _NUMBER.fullmatch(raw)
    if not match:
        raise FileError(f"{raw[:40]!r} is no number")
    return Fraction(match[1]) / Fraction(match[2] or 1)


def _factor(binding: Binding, facts: Facts | None) -> Number:
    factor = UNITS[binding.unit][1] if binding.unit else 1
    if not binding.of:
        return factor
    whole = _by_facts(catalogue()[binding.setting], binding.of, facts)
    assert isinstance(whole, int | Fraction)  # the dialect was checked: it has the setting's dimension
    return factor * whole


def _within(binding: Binding, value: Value) -> None:
    setting = catalogue()[binding.setting]
    if not isinstance(value, int | float | Fraction):
        return
    for bound, words, beyond in ((binding.least, "at least", operator.lt), (binding.most, "at most", operator.gt)):
        limit = setting.parse(bound) if bound else None
        if isinstance(limit, int | Fraction) and beyond(value, limit):
            taken = f"{words} {setting.show(limit)}"
            raise FileError(f"{setting.key}: the application takes {taken} and would make that of it")


def _without_limit(binding: Binding) -> str:
    if binding.empty != "none":
        raise FileError(f"{binding.setting}: this file has no way to say that there is no limit")
    return ""


def _spelled(binding: Binding, value: Value, rounding: Rounding, facts: Facts | None) -> str:
    if value == math.inf:
        return _without_limit(binding)
    if binding.values:
        return _word(binding, value)
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | Fraction):
        return _native_number(binding, Fraction(value) / (_factor(binding, facts) or 1), rounding)
    return str(value)


def _word(binding: Binding, value: Value) -> str:
    setting = catalogue()[binding.setting]
    word = next((native for native, known in binding.values.items() if setting.parse(known) == value), None)
    if word is None:
        raise FileError(f"{binding.setting}: this file has no word for {value}")
    return word


def _native_number(binding: Binding, scaled: Fraction, rounding: Rounding) -> str:
    if catalogue()[binding.setting].kind in (Kind.FRACTION, Kind.RATE) and not binding.unit:
        return str(scaled)
    if rounding == "nearest":
        return str(round(scaled))
    return str(math.ceil(scaled) if rounding == "up" else math.floor(scaled))
