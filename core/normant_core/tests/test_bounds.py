"""Documents that nobody writes: each is refused before the step that it would make costly.

No test here takes the time: what is not bounded takes minutes or all memory, and is seen by that.
"""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import DocumentError, FileError, QuantityError
from normant_core.base.quantities import Dimension, Version, parse_quantity
from normant_core.base.toml_places import LIMIT_BYTES, LIMIT_FAULTS, load_toml
from normant_core.formats.kinds import read_file
from normant_core.judging.judge import Judge, View
from normant_core.rules import syntax
from normant_core.rules.parser import LIMIT_DEPTH, ExpressionError, parse
from normant_core.seat.facts import Facts, Seat
from normant_core.seat.survey import Store
from normant_core.standard.parse import LIMITS, parse_published, parse_standard

HEAD = 'format = "normant-standard/1"\nname = "t"\n'
LAYER = '[[layer]]\nname = "all"\n'
LONG_SUM = " + ".join(["1 GiB"] * 215)


def rule(**of: str) -> str:
    """A rule as text; values as they stand."""
    return "[[layer.rule]]\n" + "".join(f"{name} = {value}\n" for name, value in of.items())


def standard_of(at_least: str) -> str:
    """A standard of one rule."""
    return HEAD + LAYER + rule(setting='"memory.held_back"', at_least=f'"{at_least}"')


class Documents(TestCase):
    def test_a_text_beyond_a_bound_is_refused_with_its_line(self) -> None:
        for name, text in {
            "bytes": "#" * (LIMIT_BYTES + 1),
            "points": ".".join(["a"] * 20_000) + " = 1",
            "keys that are deep": "\n".join(f"a.b.c.d.e.f.k{n} = 1" for n in range(1_000)),
            "commas": "a = [" + "1," * 30_000 + "]",
            "lines": "#\n" * 30_000,
            "keys": "\n".join(f"a{n}.b.c=1" for n in range(20_001)),
            "brackets": "a = " + "[" * 50_000,
            "tables": "[a]\n" * 60_000,
            "an open text": 'a = "' + '\\"' * 100_000,
        }.items():
            with self.subTest(name), self.assertRaises(DocumentError) as refused:
                parse_standard(HEAD + text)
            self.assertLess(len(str(refused.exception)), 2_000)

    def test_texts_and_comments_do_not_count(self) -> None:
        text = "# [[[[[[[[[[[[[[[[[[[ a.b.c.d.e.f.g.h.i.j.k.l.m.n.o\n" + 'a = "' + "[" * 40 + "." * 40 + '"\n'
        self.assertEqual(load_toml(text + "b = '''\n" + "[" * 40 + "\n'''", "t")["a"], "[" * 40 + "." * 40)

    def test_counts_are_bounded_before_rules_are_built(self) -> None:
        many = rule(setting='"power.profile"', want='"performance"') * (LIMITS["rule"] + 1)
        with self.assertRaisesRegex(DocumentError, "1,001 of rule"):
            parse_standard(HEAD + LAYER + many)

    def test_faults_are_told_up_to_a_bound(self) -> None:
        wrong = rule(setting='"no.such"', want="1") * 400
        with self.assertRaises(DocumentError) as refused:
            parse_standard(HEAD + LAYER + wrong)
        self.assertEqual(len(refused.exception.faults), LIMIT_FAULTS)

    def test_groups_that_name_each_other_do_not_multiply(self) -> None:
        groups = "[groups]\ng0 = \"seat.role == 'a'\"\n" + "".join(
            f'g{n} = "g{n - 1} and g{n - 1}"\n' for n in range(1, 60)
        )
        with self.assertRaisesRegex(DocumentError, "too many parts"):
            parse_standard(HEAD + groups + LAYER)

    def test_numbers_and_versions_have_an_end(self) -> None:
        for text in ("9" * 5_000, "1/" + "9" * 5_000, "9" * 39 + " TiB", "10000000000000000000 GiB"):
            with self.subTest(text[:9]), self.assertRaises(QuantityError):
                parse_quantity(text, Dimension.BYTES)
        with self.assertRaises(QuantityError):
            Version.parse("9" * 5_000)


class Preferences(TestCase):
    def test_a_file_beyond_a_bound_is_refused(self) -> None:
        for kind, raw in {
            "json": b"[" + b"1," * 500_000 + b"1]",
            "xml": b"<a>" + b"<b/>" * 200_000 + b"</a>",
            "toml": b".".join([b"a"] * 500_000) + b" = 1",
            "yaml": b"\n".join(b"a%d: 1" % n for n in range(200_000)),
            "ini": b"a=1\n" + b" x\n" * 500_000,
            "plist": b'<plist version="1.0"><array>' + b"<true/>" * 200_000 + b"</array></plist>",
        }.items():
            with self.subTest(kind), self.assertRaises(FileError):
                read_file(raw, kind)

    def test_what_never_ends_is_gone_over_once(self) -> None:
        for raw in (b'{"a": "' + b'\\"' * 200_000, b'"/*' * 150_000, b"/*" * 200_000, b"/* */" * 90_000 + b'"\\'):
            for kind in ("json", "jsonc"):
                with self.subTest(kind, raw=raw[:8]), self.assertRaises(FileError):
                    read_file(raw, kind)


class Depth(TestCase):
    def test_a_rule_of_many_terms_is_refused(self) -> None:
        with self.assertRaisesRegex(DocumentError, "too many parts in one another"):
            parse_standard(standard_of(LONG_SUM))

    def test_one_that_was_published_before_leaves_its_readings_unread_and_says_why(self) -> None:
        judge = Judge(parse_published(standard_of(LONG_SUM)))
        view = View(Seat("pan-03"), Facts(), {("memory.held_back", None): 2**30})
        [verdict] = judge.verdicts(view)
        self.assertEqual((verdict.status, judge.not_compiled), ("unread", []))
        self.assertIn("too many parts", verdict.reason)

    def test_groups_of_an_old_edition_do_not_bar_it_either(self) -> None:
        groups = "[groups]\ng0 = \"seat.role == 'a'\"\n" + "".join(
            f'g{n} = "g{n - 1} and g{n - 1}"\n' for n in range(1, 40)
        )
        layer = '[[layer]]\nname = "all"\nwhen = "g39"\n' + rule(setting='"power.profile"', want='"performance"')
        view = View(Seat("pan-03"), Facts(), {("power.profile", None): "balanced"})
        self.assertEqual([v.status for v in Judge(parse_published(HEAD + groups + layer)).verdicts(view)], ["unread"])

    @given(st.lists(st.sampled_from(["({} + 1 GiB)", "max({}, 2 GiB)", "(10 % of {})", "({} * 2)"]), max_size=60))
    def test_what_the_parser_takes_python_compiles(self, shapes: list[str]) -> None:
        text = "memory.total"
        for shape in shapes:
            text = shape.format(text)
        try:
            judge = Judge(parse_standard(standard_of(text)))
        except DocumentError:
            return
        self.assertEqual(judge.not_compiled, [])
        judge.verdicts(View(Seat("a"), Facts(), {("memory.held_back", None): 1}))

    def test_the_deepest_condition_compiles(self) -> None:
        text = "seat.role == 'a'"
        for number in range(LIMIT_DEPTH):
            deeper = f"not ({text}) or any(volumes, system)" if number % 2 else f"({text} and seat.room == 'b')"
            try:
                parse(deeper)
            except ExpressionError:
                break
            text = deeper
        self.assertGreater(syntax.extent(parse(text)).depth, LIMIT_DEPTH - 3)
        layer = f'[[layer]]\nname = "all"\nwhen = "{text}"\n'
        judge = Judge(
            parse_standard(HEAD + layer + rule(setting='"power.profile"', want='"performance"', when=f'"{text}"'))
        )
        self.assertEqual(judge.not_compiled, [])


class Explained(TestCase):
    def test_a_rule_over_stores_is_told_with_their_folders(self) -> None:
        when = "any(stores, purpose == 'renders' and size > 100 GB)"
        text = HEAD + LAYER + rule(setting='"power.profile"', want='"performance"', when=f'"{when}"')
        view = View(
            Seat("a"), Facts(), {("power.profile", None): "balanced"}, stores=(Store("renders", "/r", size=3 * 10**11),)
        )
        [verdict] = Judge(parse_standard(text)).verdicts(view)
        self.assertEqual((verdict.status, verdict.reason), ("off-norm", ""))
