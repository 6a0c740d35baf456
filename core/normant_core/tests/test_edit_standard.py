import tomllib
import unittest

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import DocumentError
from normant_core.judging.on_seat import on_seat
from normant_core.standard.edit import add_part, add_releases, edit_part, remove_part
from normant_core.standard.parse import parse_standard
from normant_core.standard.rule import ReleaseText
from normant_core.standard.sentences import layer_sentences

from .worked import STANDARD, judge_of, view

COMMENTED = STANDARD.replace('want = "performance"', 'want = "performance"   # tried in May').replace(
    '[[layer]]\nname = "Cutting rooms"', '# The cutters asked for this.\n[[layer]]\nname = "Cutting rooms"'
)


class Editing(unittest.TestCase):
    def test_a_field_changes_and_every_other_line_stays(self) -> None:
        done = edit_part(COMMENTED, "rule", 0, 0, {"want": "balanced", "because": None, "evidence": "measured"})
        old, new = COMMENTED.splitlines(), done.splitlines()
        self.assertIn('want = "balanced"   # tried in May', new)
        self.assertEqual(
            [line for line in new if line not in old], ['want = "balanced"   # tried in May', 'evidence = "measured"']
        )
        self.assertEqual(len([line for line in old if line not in new]), 2)

    def test_another_check_takes_the_place_of_one(self) -> None:
        done = edit_part(COMMENTED, "rule", 1, 1, {"at_most": None, "between": ["1/4", "1/2"]})
        rule = parse_standard(done).rules[-1]
        self.assertEqual((rule.check, rule.text.between), ("between", ("1/4", "1/2")))

    def test_rules_come_and_go(self) -> None:
        more = add_part(COMMENTED, "rule", 0, {"setting": "driver.branch", "want": "steady", "severity": "should"})
        layers = layer_sentences(parse_standard(more))
        self.assertEqual(layers[0].rules[-1].sentence, "Driver branch is steady")
        self.assertEqual(
            [rule.sentence for rule in layers[1].rules],
            [r.sentence for r in layer_sentences(parse_standard(COMMENTED))[1].rules],
        )
        less = remove_part(more, "rule", 0, len(layers[0].rules) - 1)
        self.assertEqual(tomllib.loads(less), tomllib.loads(COMMENTED))
        self.assertIn("# The cutters asked for this.", less)

    def test_releases_are_added_to_the_list(self) -> None:
        release = ReleaseText("app.version", "5.2", "approved", app="glaize", because="tried")
        done = add_releases(add_releases(COMMENTED, [release]), [ReleaseText("driver.version", "32.0.1", "blocked")])
        self.assertEqual([r.version for r in parse_standard(done).releases], ["5.2", "32.0.1"])
        self.assertTrue(done.startswith(COMMENTED))

    @given(
        st.integers(0, 1),
        st.integers(0, 5),
        st.sampled_from(["because", "when", "severity"]),
        st.text("ab'\"\\ \n#=é", max_size=12),
    )
    def test_whatever_is_written_is_read_again(self, layer: int, rule: int, field: str, value: str) -> None:
        place = (layer, rule % (6 if layer == 0 else 2))
        done = edit_part(COMMENTED, "rule", *place, {field: value})
        plain = tomllib.loads(done)
        self.assertEqual(plain["layer"][layer]["rule"][place[1]][field], value)
        del plain["layer"][layer]["rule"][place[1]][field]
        before = tomllib.loads(COMMENTED)
        before["layer"][layer]["rule"][place[1]].pop(field, None)
        self.assertEqual(plain, before)

    def test_what_is_not_there_is_refused(self) -> None:
        for call, expected in (
            (lambda: edit_part(STANDARD, "rule", 0, 99, {"want": 1}), "layer[0] has no rule 99"),
            (lambda: edit_part(STANDARD, "rule", 9, 0, {"want": 1}), "there is no layer 9"),
            (lambda: edit_part(STANDARD, "rule", 0, 0, {"colour": "blue"}), "a rule has no 'colour'"),
            (lambda: edit_part("[[", "rule", 0, 0, {}), "mend the text first"),
        ):
            with self.subTest(expected), self.assertRaises(DocumentError) as raised:
                call()  # type: ignore[no-untyped-call]
            self.assertIn(expected, str(raised.exception))


class OnASeat(unittest.TestCase):
    def test_each_rule_says_what_it_comes_to(self) -> None:
        values = {
            (t.layer, t.rule, t.app): (t.how, t.wants, t.reading, t.met) for t in on_seat(judge_of(STANDARD), view())
        }
        self.assertEqual(values[0, 0, None], ("made", "performance", "balanced", False))
        self.assertEqual(values[0, 1, "corrow"][0], "lost")
        self.assertEqual(values[1, 0, "corrow"], ("made", "one of hadrel, opencl", "cpu", False))
        self.assertEqual(values[0, 2, "corrow"][1:3], ("at least 6.4 GiB", "1.5 GiB"))
        silent = judge_of(STANDARD.replace("seat.role == 'offline'", "seat.role == 'comp'"))
        self.assertEqual({t.how for t in on_seat(silent, view()) if t.layer == 1}, {"silent"})
