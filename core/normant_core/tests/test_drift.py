from dataclasses import replace
from unittest import TestCase

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from normant_core.judging.judge import Judge, View
from normant_core.judging.levels import in_words, levels
from normant_core.seat.facts import Seat
from normant_core.seat.survey import Unreadable
from normant_core.standard.parse import parse_standard
from normant_core.words.formats import as_object, origin

from .worked import PAN_03, STANDARD, judge, view

# setting, app, reading, norm, origin, severity, distance, fix: the table of docs/examples.
TABLE = [
    (
        "engine.effects",
        "corrow",
        "cpu",
        "one of hadrel, opencl",
        "Cutting rooms, over Whole facility",
        "must",
        None,
        "hadrel",
    ),
    ("memory.held_back", "corrow", "1.5 GiB", "at least 6.4 GiB", "Whole facility", "should", -2.09, 6871947674),
    ("memory.preview_pool", "corrow", "256 MiB", "12.8 to 25.6 GiB", "Whole facility", "advise", -5.68, 13743895348),
    (
        "store.source_cache.path",
        "corrow",
        "/home/edit/corrow/cache, on v0",
        "a volume that is not the system's, with at least 120 GB free",
        "Whole facility",
        "must",
        None,
        "v1",
    ),
    ("playback.scale", "corrow", "1", "at most 1/2", "Cutting rooms", "advise", 1.0, "1/2"),
    ("power.profile", None, "balanced", "performance", "Whole facility", "should", None, "performance"),
    (
        "delivery.full_raw",
        "plinthe",
        "false",
        "true, because Raw decoding scale is 1/4",
        "Whole facility, locked",
        "must",
        None,
        True,
    ),
]


class Worked(TestCase):
    def setUp(self) -> None:
        self.judge = Judge(parse_standard(STANDARD))

    def test_pan_03_gives_the_worked_table(self) -> None:
        rows = [
            (
                v.setting,
                v.app,
                v.reading_shown,
                v.norm.sentence,
                origin(v),
                v.severity,
                v.distance and round(v.distance, 2),
                v.fix,
            )
            for v in self.judge.verdicts(view())
        ]
        self.assertEqual(rows, TABLE)

    def test_a_limit_that_is_computed_shows_both_arms(self) -> None:
        verdict = self.judge.explain(view(), "memory.held_back", "corrow")
        assert verdict
        self.assertLessEqual({("4 GiB", "4 GiB"), ("10 % of memory.total", "6.4 GiB")}, set(verdict.steps))

    def test_words_say_reading_norm_and_how_far(self) -> None:
        verdict = self.judge.explain(view(), "memory.held_back", "corrow")
        assert verdict
        self.assertEqual(
            in_words(verdict), "Memory reserve is 1.5 GiB, house standard: at least 6.4 GiB, 4.3 times too small"
        )

    def test_one_json_line_has_the_published_fields(self) -> None:
        line = as_object("pan-03", self.judge.verdicts(view())[1])
        fields = "seat setting app status severity reading norm distance fix layer chain because"
        self.assertEqual(list(line), fields.split())
        self.assertEqual(line["norm"], {"check": "at_least", "values": (6871947674,), "sentence": "at least 6.4 GiB"})

    def test_five_levels_stand_in_their_order(self) -> None:
        statuses = [(level.family, level.status) for level in levels(self.judge.verdicts(view(), every=True))]
        expected = [("engine", "off-norm"), ("memory", "off-norm"), ("stores", "off-norm"), ("power", "off-norm")]
        self.assertEqual(statuses, [*expected, ("driver", "no-norm")])


class Unread(TestCase):
    def test_a_named_application_that_cannot_be_read_carries_its_reason(self) -> None:
        verdicts = judge('setting = "memory.held_back"\napp = "glaize"\nat_least = "1 GiB"').verdicts(view())
        self.assertEqual([(v.status, v.reason) for v in verdicts], [("unread", _glaize())])

    def test_an_application_that_is_not_installed_gives_nothing(self) -> None:
        self.assertEqual(judge('setting = "memory.held_back"\napp = "pockle"\nwant = "1 GiB"').judge(view()), [])

    def test_a_machine_reading_that_failed_carries_its_reason(self) -> None:
        readings = {key: value for key, value in view().readings.items() if key[0] != "power.profile"}
        failed = (Unreadable("reading:power.profile", "the firmware has none"),)
        seen = replace(view(), readings=readings, errors=failed)
        verdicts = judge('setting = "power.profile"\nwant = "performance"').verdicts(seen)
        self.assertEqual([(v.status, v.reason) for v in verdicts], [("unread", "the firmware has none")])

    def test_without_a_register_what_needs_the_role_is_unread(self) -> None:
        seen = replace(view(), seat=Seat("pan-03"))
        status = {(v.setting, v.app): v.status for v in Judge(parse_standard(STANDARD)).verdicts(seen)}
        self.assertEqual(status["engine.effects", "corrow"], "unread")


class Fixes(TestCase):
    def test_the_first_of_several_that_the_facts_allow_is_the_fix(self) -> None:
        facts = msgspec.structs.replace(view().facts, gpus=view().facts.gpus[1:])  # type: ignore[index]
        rule = 'setting = "engine.effects"\napp = "corrow"\none_of = ["hadrel", "opencl"]'
        verdict = judge(rule).explain(replace(view(), facts=facts), "engine.effects", "corrow")
        self.assertEqual(verdict and verdict.fix, "opencl")

    def test_never_needs_a_person(self) -> None:
        verdict = judge('setting = "power.profile"\nnever = ["balanced"]').verdicts(view())[0]
        self.assertEqual((verdict.fix, verdict.fix_shown), (None, "needs a decision"))

    @given(st.integers(0, 2**40), st.integers(0, 2**40))
    def test_the_fix_of_a_bound_is_in_norm_and_the_distance_has_its_sign(self, reading: int, bound: int) -> None:
        judged = judge(f'setting = "memory.held_back"\nat_least = {bound}')
        seen = View(PAN_03, view().facts, {("memory.held_back", "corrow"): reading})
        for verdict in judged.verdicts(seen):
            self.assertLess(verdict.distance or 0, 0)
            mended = View(PAN_03, seen.facts, {("memory.held_back", "corrow"): verdict.fix})
            self.assertEqual(judged.verdicts(mended), [])


def _glaize() -> str:
    return "preferences.toml: line 14: value has no closing quote"


LAYERS = """format = "normant-standard/1"
name = "t"
[[layer]]
name = "This seat"
when = "seat.name == 'pan-03'"
[[layer.rule]]
setting = "memory.held_back"
at_least = "1 GiB"
[[layer]]
name = "Corrow"
app = "corrow"
[[layer.rule]]
setting = "memory.held_back"
at_least = "2 GiB"
[[layer]]
name = "Cutting"
when = "seat.role == 'offline'"
[[layer.rule]]
setting = "memory.held_back"
at_least = "3 GiB"
[[layer]]
name = "Everywhere"
[[layer.rule]]
setting = "memory.held_back"
at_least = "4 GiB"
"""


class Layers(TestCase):
    def chain(self, text: str) -> list[tuple[str, str]]:
        verdict = Judge(parse_standard(text)).explain(view(), "memory.held_back", "corrow")
        assert verdict
        return [(link.layer, link.outcome) for link in verdict.chain]

    def test_the_narrower_layer_wins_however_they_stand(self) -> None:
        lost = [("Everywhere", "lost"), ("Corrow", "lost"), ("Cutting", "lost")]
        self.assertEqual(self.chain(LAYERS), [*lost, ("This seat", "made")])

    def test_within_a_layer_the_later_wins(self) -> None:
        doubled = LAYERS + '[[layer.rule]]\nsetting = "memory.held_back"\nat_least = "5 GiB"\n'
        without = doubled.replace("pan-03", "pan-04").replace("'offline'", "'comp'").replace('"corrow"', '"glaize"')
        self.assertEqual(self.chain(without), [("Everywhere", "lost"), ("Everywhere", "made")])

    def test_a_locked_rule_stands_above_all(self) -> None:
        locked = LAYERS + "locked = true\n"
        self.assertEqual(self.chain(locked)[0], ("Everywhere", "made"))
        self.assertEqual({outcome for _, outcome in self.chain(locked)[1:]}, {"locked out"})

    def test_versions_hold_a_rule_to_their_range(self) -> None:
        for versions, count in ((">=8,<9", 1), (">=9", 0)):
            rule = f'setting = "memory.held_back"\napp = "corrow"\nversions = "{versions}"\nat_least = "8 GiB"'
            self.assertEqual(len(judge(rule).verdicts(view())), count)

    def test_a_fix_of_its_own_settles_what_has_none(self) -> None:
        rule = 'setting = "memory.held_back"\napp = "corrow"\nmust = "reading > 2 GiB"\nfix = "memory.total / 8"'
        verdict = judge(rule).verdicts(view())[0]
        self.assertEqual((verdict.fix, verdict.fix_shown), (8 * 2**30, "8 GiB"))


class FastAndPlain(TestCase):
    judge = Judge(parse_standard(STANDARD))

    @given(st.data())
    def test_the_compiled_judgement_agrees_with_the_explained_one(self, data: st.DataObject) -> None:
        seen = view()
        keys = data.draw(st.lists(st.sampled_from(sorted(seen.readings, key=str)), unique=True))
        values = {key: seen.readings[key] for key in keys}
        for key in keys:
            if isinstance(values[key], int) and not isinstance(values[key], bool):
                values[key] = data.draw(st.integers(0, 2**36))
        facts = data.draw(st.sampled_from([seen.facts, msgspec.structs.replace(seen.facts, volumes=None, gpus=None)]))
        seat = data.draw(st.sampled_from([PAN_03, Seat("pan-03"), Seat("rake-01", "comp")]))
        tried = View(seat, facts, values, seen.errors)
        fast = [(o.setting, o.app, o.status) for o in self.judge.judge(tried)]
        plain = [(v.setting, v.app, v.status) for v in self.judge.verdicts(tried, every=True)]
        self.assertEqual(fast, plain)
