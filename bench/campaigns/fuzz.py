"""Millions of generated expressions: none may crash, take long, or reach a name that nobody declared."""

import dis
import os
import random
import time
from concurrent.futures import ProcessPoolExecutor
from itertools import repeat
from typing import Any

from normant_core.catalogue.settings import catalogue
from normant_core.rules import syntax
from normant_core.rules.checker import Checker, known_names
from normant_core.rules.emit import FAST_FAILURES, HELPERS, Emitter
from normant_core.rules.evaluate import Missing, Scope, evaluate
from normant_core.rules.parser import ExpressionError, parse
from normant_core.seat.facts import Facts, Seat
from normant_core.seat.survey import parse_survey

from ..measure import EXAMPLES, Figure

EACH = 1000  # expressions of 1000 seats: 10,000,000 for the usual 10,000
LONGEST = 0.25  # seconds that one may take: the machines are shared
_WORDS = [
    *known_names(),
    *[
        "and",
        "or",
        "not",
        "in",
        "of",
        "true",
        "false",
        "any",
        "all",
        "count",
        "first",
        "min",
        "max",
        "round",
        "floor",
        "setting",
    ],
    *["enabled", "interfaces", "free", "gpus", "volumes", "i", "s", "r", "__class__", "__import__", "eval", "exec"],
]
_SIGNS = [*"()[]+-*/,.<>:=@{}'\"", "==", "!=", "<=", ">=", "**", "//", "\\", "\0", "\n", "λ"]
_VALUES = ["0", "1", "4 GiB", "10 %", "1/2", "120 GB", "9" * 40, "1e9", "'nvme'", "['a', 'b']", "31.4.2", "1/0", "''"]
_SHAPES = [
    *("{0} {2} {1}", "not ({0})", "({0}) and ({1})", "({0}) or ({1})", "any(gpus, {0})", "count(volumes, {0}) > {1}"),
    *("min({0}, {1})", "max({0})", "10 % of {0}", "first(volumes, {0}).free", "setting({0})", "[{0}, {1}]", "({0})"),
    *("{0} in {1}", "{0}.{1}", "all(stores, {0})"),
]
_COMPARE = ["==", "!=", "<", "<=", ">", ">=", "+", "-", "*", "/", "in", "not in", "** ", "and", "if"]
_RESERVED = frozenset({"s", "i", "f", *HELPERS})


def fuzz(seats: int) -> list[Figure]:
    """Generated expressions by the second; each one parsed, and where it is sound evaluated in both ways."""
    count, workers = seats * EACH, os.cpu_count() or 1
    begun = time.perf_counter()
    with ProcessPoolExecutor(workers) as pool:
        parts = list(pool.map(_some, range(workers), repeat(count // workers)))
    taken, sound, longest = time.perf_counter() - begun, sum(f[0] for f in parts), max(f[1] for f in parts)
    note = f"the longest of {count:,}, of which {sound / count:.0%} were sound, in {taken:.0f} s"
    return [Figure.paced("fuzz", longest * 1e3, "ms", note, LONGEST * 1e3)]


def _some(seed: int, count: int) -> tuple[int, float]:
    """How many were sound, and the longest time in seconds that one took. Raises whatever should not happen."""
    draw = random.Random(seed)
    survey = parse_survey((EXAMPLES / "pan-03.survey.json").read_bytes())
    whole = Scope(survey.facts, Seat("pan-03", "offline"), survey.values(), "corrow", None, 2**30, None, survey.stores)
    nothing = Scope(Facts(), Seat(""), {}, stores=None)
    setting = catalogue()["memory.held_back"]
    sound, longest = 0, 0.0
    for _ in range(count):
        text = _expression(draw, draw.randrange(1, 5)) if draw.random() < 0.7 else _soup(draw)
        begun = time.perf_counter()
        try:
            node, _kind = Checker(setting).check(parse(text))
        except ExpressionError:
            longest = max(longest, time.perf_counter() - begun)
            continue
        sound += 1
        for scope in (whole, nothing):
            evaluate(node, scope)
            scope.shared.clear()
        fast = _compiled(node)
        plain = evaluate(node, whole)
        try:
            quick = fast(whole, whole.reading)
        except FAST_FAILURES:
            pass  # what is missing or has no quotient, the plain way decides
        else:
            assert isinstance(plain, Missing) or quick == plain or bool(quick) == plain, (text, quick, plain)
        longest = max(longest, time.perf_counter() - begun)
        if sound % 50 == 0:
            _look(fast)
    return sound, longest


def _compiled(node: syntax.Node) -> Any:
    """As rules are compiled: the reading is `r`."""
    emitter = Emitter()
    return eval(compile(f"lambda s, r: {emitter.source(node)}", "<fuzz>", "eval"), {**HELPERS, **emitter.constants})


def _expression(draw: random.Random, depth: int) -> str:
    if depth == 0 or draw.random() < 0.15:
        return draw.choice(_VALUES if draw.random() < 0.5 else _WORDS)
    shape = draw.choice(_SHAPES)
    return shape.format(_expression(draw, depth - 1), _expression(draw, depth - 1), draw.choice(_COMPARE))


def _soup(draw: random.Random) -> str:
    parts = [draw.choice(draw.choice((_WORDS, _SIGNS, _VALUES))) for _ in range(draw.randrange(1, 14))]
    return draw.choice(("", " ")).join(parts) * draw.choice((1, 1, 1, 40))


def _look(fast: Any) -> None:
    """The compiled code names nothing but what is given to it, and no attribute that begins with an underscore."""
    codes = [fast.__code__]
    while codes:
        code = codes.pop()
        codes += [constant for constant in code.co_consts if hasattr(constant, "co_code")]
        for step in dis.get_instructions(code):
            if step.opname in ("LOAD_GLOBAL", "LOAD_NAME"):
                name = str(step.argval)
                assert name in _RESERVED or (name[0] == "k" and name[1:].isdigit()), name
            elif step.opname in ("LOAD_ATTR", "LOAD_METHOD"):
                assert not str(step.argval).startswith("_"), step.argval
