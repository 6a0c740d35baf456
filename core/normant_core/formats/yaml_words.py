"""Words of YAML: what one means by the core schema of YAML 1.2, and how a value is spelled so that old and new readers
agree on it."""

import re
from typing import Any

import yaml

from .span import Scalar

_NULL = re.compile(r"(?:~|null|Null|NULL|)")
_BOOL = re.compile(r"(?:true|True|TRUE|false|False|FALSE)")
_INT = re.compile(r"(?:[-+]?[0-9]+|0o[0-7]+|0x[0-9a-fA-F]+)")
_FLOAT = re.compile(r"[-+]?(?:\.[0-9]+|[0-9]+(?:\.[0-9]*)?)(?:[eE][-+]?[0-9]+)?")
_SPECIAL = re.compile(r"(?:[-+]?\.(?:inf|Inf|INF)|\.(?:nan|NaN|NAN))")
_OLDER_BOOL = re.compile(r"(?:y|Y|yes|Yes|YES|n|N|no|No|NO|on|On|ON|off|Off|OFF)")
_CORE = {"str": "text", "int": "number", "float": "number", "bool": "bool", "null": "null"}
_NAMED_NUMBERS = {"inf": ".inf", "-inf": "-.inf", "nan": ".nan"}
_INDICATORS = re.compile(r"[^\s\-?:,\[\]{}#&*!|>'\"%@`=][^\x00-\x1f\x7f-\x9f\u2028\u2029\ufeff]*")
_BREAKS_OFF = re.compile(r": |:\Z| #|[ \t]\Z|\t")  # what would end a plain word, or begin a comment
_BREAKS_OFF_IN_FLOW = re.compile(r"[,\[\]{}]")
_ESCAPES = {"\n": "\\n", "\t": "\\t", "\r": "\\r", '"': '\\"', "\\": "\\\\", "\0": "\\0"}


def meaning(event: Any) -> Scalar:
    """The value of a scalar event by the core schema (YAML 1.2.2, 10.3)."""
    tag, raw = event.tag, event.value
    if tag and tag != "!":
        return _tagged(tag.removeprefix("tag:yaml.org,2002:"), raw)
    quoted = event.style or tag == "!"
    return Scalar("text", raw) if quoted else _resolved(raw)


def _tagged(name: str, raw: str) -> Scalar:
    if name == "binary":
        return Scalar("data", raw)
    return _resolved(raw) if _CORE.get(name, "text") != "text" else Scalar("text", raw)


def _resolved(raw: str) -> Scalar:
    """What a word without quotes means."""
    if _NULL.fullmatch(raw):
        return Scalar("null", "null")
    if _BOOL.fullmatch(raw):
        return Scalar("bool", raw.lower())
    number = _number(raw)
    return Scalar("text", raw) if number is None else Scalar("number", number)


def _number(raw: str) -> str | None:
    if _INT.fullmatch(raw):
        return str(int(raw, 0)) if raw[:2] in ("0o", "0x") else raw.lstrip("+")
    if _FLOAT.fullmatch(raw):
        return raw.lstrip("+")
    return raw.lower().replace(".", "").lstrip("+") if _SPECIAL.fullmatch(raw) else None


def number_word(raw: str) -> str:
    """A number as every reader takes it: `1e5` is `1.0e+5`, for older ones know an exponent only behind a point, with
    its sign."""
    if raw in _NAMED_NUMBERS:
        return _NAMED_NUMBERS[raw]
    match = re.fullmatch(r"(-?\d+)(\.\d+)?[eE]([-+]?)(\d+)", raw)
    return f"{match[1]}{match[2] or '.0'}e{match[3] or '+'}{match[4]}" if match else raw


def is_plain(raw: str, *, flow: bool) -> bool:
    """Whether a text may stand without quotes, for old readers and new; `flow`: within brackets."""
    if not _INDICATORS.fullmatch(raw) or raw != raw.strip() or not raw.isprintable():
        return False
    breaks_off = _BREAKS_OFF.search(raw) or (flow and _BREAKS_OFF_IN_FLOW.search(raw))
    return not breaks_off and _is_word(raw)


def _is_word(raw: str) -> bool:
    """Whether readers of today and older ones take it for a text."""
    return _resolved(raw).kind == "text" and _is_word_of_old(raw)


def _is_word_of_old(raw: str) -> bool:
    """Whether older readers take it for a text too: `yes` is a truth to them."""
    try:
        return bool(yaml.load(raw, Loader=yaml.CSafeLoader) == raw)
    except (yaml.YAMLError, ValueError):
        return False


def is_older_truth(raw: str) -> bool:
    """Whether older readers take a word for true or false which is a text by now: `yes`, `off`."""
    return _OLDER_BOOL.fullmatch(raw) is not None


def key_word(name: str) -> str:
    """A key, plain where it may be."""
    return name if is_plain(name, flow=True) else double_quoted(name)


def single_quoted(raw: str) -> str:
    """In single quotes, which hold a printable text alone; "" for any other."""
    printable = raw.isprintable() and "\x85" not in raw
    return "'" + raw.replace("'", "''") + "'" if printable else ""


def content_end(text: str, start: int, end: int) -> int:
    """Where a block's last line ends: the blank lines behind it are its value only where it keeps them (`|+`)."""
    header, *lines = text[start:end].splitlines(keepends=True)
    indents = [len(line) - len(line.lstrip(" ")) for line in lines if line.strip()]
    if "+" in header.partition("#")[0] or not indents:
        return end
    while not lines[-1].strip(" \r\n") and len(lines[-1].rstrip("\r\n")) <= indents[0]:
        end -= len(lines.pop())
    return end


def double_quoted(raw: str) -> str:
    """In double quotes, which hold every text."""
    return '"' + "".join(map(_escaped, raw)) + '"'


def _escaped(c: str) -> str:
    if c in _ESCAPES:
        return _ESCAPES[c]
    if c.isprintable():
        return c
    code = ord(c)
    return f"\\x{code:02x}" if code < 256 else f"\\u{code:04x}" if code < 65536 else f"\\U{code:08x}"


def block_of_lines(raw: str, form: str, newline: str) -> str:
    """A block of lines in the manner of the one it replaces (`form`), or nothing where it cannot be one.

    How many line breaks the text ends with is said behind the bar: `-` none, nothing one, `+` all there are.
    """
    header = re.match(r"\|[-+]?[ \t]*\r?\n", form)
    indent = re.search(r"\n( +)\S", form)
    body = raw.rstrip("\n")
    if not header or not indent or not _fits_a_block(body):
        return ""
    ends = len(raw) - len(body)
    chomp = {0: "-", 1: ""}.get(ends, "+")
    lines = [indent[1] + line if line else "" for line in body.split("\n")]
    tail = newline if form.endswith("\n") else ""
    return f"|{chomp}{newline}{newline.join(lines)}{tail}" + newline * max(ends - 1, 0)


def _fits_a_block(body: str) -> bool:
    """A block's first line says how far it is indented, so a text that begins with a space is none."""
    return bool(body) and body[0] not in " \t" and all(c.isprintable() or c == "\n" for c in body)
