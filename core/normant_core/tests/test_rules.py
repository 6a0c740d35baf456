from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.catalogue.settings import catalogue
from normant_core.rules.checker import Checker
from normant_core.rules.emit import FAST_FAILURES, HELPERS, Emitter, Shared
from normant_core.rules.evaluate import Missing, Scope, evaluate
from normant_core.rules.parser import LIMIT_DEPTH, ExpressionError, parse

from .worked import view

FAULTS = [
    ("memory.totl > 4 GiB", 0, "total"),
    ("memry.total > 4 GiB", 0, "memory"),
    ("memory.total > 4 min", 0, "one kind"),
    ("memory.total > 'much'", 15, "a number"),
    ("1 GiB < memory.total < 4 GiB", 21, "brackets"),
    ("any(gpus, enabled", 17, "','"),
    ("shell('rm')", 0, "setting, any"),
    ("memory.total ** 2 > 1", 14, "a value"),
    ("setting('playback.raw_scal') < 1", 0, "playback.raw_scale"),
    ("cpu.cores", 0, "true or false"),
    ("any(gpus, any(gpus, enabled))", 10, "one list"),
    ("(" * (LIMIT_DEPTH + 1), LIMIT_DEPTH, "at most"),
]
JUDGED: list[tuple[str, Any]] = [
    ("memory.total == 64 GiB", True),
    ("any(gpus, enabled and 'vulkan' in interfaces)", True),
    ("count(volumes, attached and not system) == 2", True),
    ("first(gpus, kind == 'discrete').driver.version >= '31.4'", True),
    ("seat.role in ['comp', 'offline']", True),
    ("reading <= max(100 MiB, 10 % of memory.total) and reading >= 1/3 * 1 MiB", True),
    ("reading > 1/256 * memory.total", False),
    ("max(memory.total) == min(memory.total)", True),
    ("reading * 4 <= max(1 GiB, 10 % of memory.total)", True),
    ("floor(memory.total / 20 GiB) == 3", True),
    ("seat.hardware_class == 'tall'", Missing("seat.hardware_class")),
    ("seat.hardware_class == 'tall' or memory.total > 1 GiB", True),
    ("seat.hardware_class == 'tall' and memory.total < 1 GiB", False),
    ("not seat.hardware_class == 'tall'", Missing("seat.hardware_class")),
    ("all(volumes, read_rate > 1 MB/s)", Missing("read_rate")),
]


def scope() -> Scope:
    seen = view()
    return Scope(seen.facts, seen.seat, seen.readings, "corrow", seen.facts.application("corrow"), 2**28)


def checked(text: str) -> Any:
    return Checker(catalogue()["memory.preview_pool"]).boolean(parse(text))


def _joined(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    pair = st.tuples(inner, st.sampled_from(["and", "or"]), inner).map(lambda t: f"({t[0]}) {t[1]} ({t[2]})")
    return pair | inner.map(lambda t: f"not ({t})")


class Expressions(TestCase):
    def test_a_fault_says_where_and_what_was_expected(self) -> None:
        for text, position, expected in FAULTS:
            with self.subTest(text), self.assertRaises(ExpressionError) as caught:
                checked(text)
            self.assertEqual(caught.exception.position, position, caught.exception)
            self.assertIn(expected, f"{caught.exception.message} {caught.exception.expected}")

    def test_conditions_over_facts_and_readings_are_judged(self) -> None:
        for text, result in JUDGED:
            with self.subTest(text):
                self.assertEqual(evaluate(checked(text), scope()), result)

    @given(st.recursive(st.sampled_from([t for t, _ in JUDGED]), _joined, max_leaves=6))
    def test_the_compiled_condition_agrees_with_the_plain_one(self, text: str) -> None:
        node = checked(text)
        plain = evaluate(node, scope())
        for emitter in (Emitter(), Emitter(Shared())):
            source = f"lambda s, r: {emitter.source(node)}"
            try:
                fast = eval(source, {**HELPERS, **emitter.constants})(scope(), 2**28)
            except FAST_FAILURES:
                continue  # then the plain way decides
            self.assertEqual(fast, plain)
