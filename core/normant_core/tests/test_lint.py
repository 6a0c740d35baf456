import unittest

from normant_core.house.columns import House
from normant_core.house.lint import lint
from normant_core.judging.judge import View
from normant_core.seat.facts import Application, Facts, Gpu, Memory, Seat
from normant_core.standard.parse import parse_standard

from .worked import STANDARD, view

HEAD = 'format = "normant-standard/1"\nname = "t"\n'
GIB = 2**30
HELD = ("memory.held_back", "corrow")


def doubts(text: str, *seats: View) -> list[tuple[str, int | None]]:
    return [
        (d.code, d.line)
        for d in lint(parse_standard(text), House(seats) if seats else None, text)
        if d.code != "untested"
    ]


def layer(*rules: str, name: str = "all", when: str = "") -> str:
    head = f'[[layer]]\nname = "{name}"\n' + (f'when = "{when}"\n' if when else "")
    return head + "".join(f"[[layer.rule]]\n{rule}\n" for rule in rules)


def seat(name: str = "s", role: str = "offline", total: int = 16, held: int = 2, **more: object) -> View:
    facts_ = Facts(memory=Memory(total * GIB), applications=(Application("corrow", "8.1"),), **more)  # type: ignore[arg-type]
    return View(Seat(name, role), facts_, {HELD: held * GIB, ("engine.effects", "corrow"): "cpu"})


HELD_4 = 'setting = "memory.held_back"\nat_least = "4 GiB"'


class Lint(unittest.TestCase):
    def test_a_rule_that_no_seat_meets(self) -> None:
        text = HEAD + layer(HELD_4) + layer(HELD_4, name="comp", when="seat.role == 'comp'")
        self.assertEqual(doubts(text, seat()), [("never-applies", 11)])
        self.assertEqual(doubts(text), [])

    def test_a_rule_that_another_always_overrides(self) -> None:
        text = (
            HEAD
            + layer(HELD_4)
            + layer('setting = "memory.held_back"\nat_least = "5 GiB"', name="later", when="memory.total > 0 GiB")
        )
        self.assertEqual(doubts(text, seat()), [("always-overridden", 5)])

    def test_two_rules_of_a_layer_that_cannot_both_be_followed(self) -> None:
        text = HEAD + layer(HELD_4, 'setting = "memory.held_back"\nat_most = "2 GiB"')
        self.assertEqual(doubts(text, seat()), [("always-overridden", 5), ("contradicts", 5)])

    def test_what_the_hardware_of_a_seat_does_not_allow(self) -> None:
        gpus = (Gpu("g", enabled=True, interfaces=("opencl",)), Gpu("h", enabled=False, interfaces=("hadrel",)))
        engine = 'setting = "engine.effects"\nwant = "hadrel"'
        text = HEAD + layer(engine, 'setting = "memory.held_back"\nat_least = "24 GiB"')
        doubts_found = [d for d in lint(parse_standard(text), House([seat(gpus=gpus)])) if d.level == "warning"]
        self.assertEqual(
            [d.message for d in doubts_found], ["on s no enabled GPU offers hadrel", "on s it wants 24 GiB of 16 GiB"]
        )
        self.assertEqual({d.seats for d in doubts_found}, {("s",)})
        either = HEAD + layer('setting = "engine.effects"\none_of = ["hadrel", "vulkan"]')
        self.assertEqual(doubts(either, seat(gpus=gpus)), [("cannot-hold", 5)])

    def test_rules_that_leave_it_to_a_person_and_words_that_nobody_uses(self) -> None:
        words = "[constants]\nroom = 4\n[groups]\nquiet = \"seat.role == 'comp'\"\nused = \"seat.role == 'x'\"\n"
        text = HEAD + words + layer('setting = "engine.effects"\nnever = ["cpu"]', when="used")
        self.assertEqual(doubts(text), [("no-fix", 11), ("unused-word", 4), ("unused-word", 6)])

    def test_a_word_is_used_by_whoever_speaks_of_it_and_by_its_name_in_a_text_it_is_not(self) -> None:
        words = (
            '[constants]\nleast = "4 GiB"\nroom = "x"\n[groups]\n'
            'large = "seat.role == \'comp\'"\nboth = "large and seat.room == \'x\'"\nalone = "large"\n'
        )
        rule = 'setting = "memory.held_back"\nat_least = "least"\nbecause = "the room is large, and alone it pages"'
        unused = [
            d.message for d in lint(parse_standard(HEAD + words + layer(rule, when="both"))) if d.code == "unused-word"
        ]
        self.assertEqual(unused, ["room is never used", "alone is never used"])

    def test_the_worked_standard(self) -> None:
        doubts_found = lint(parse_standard(STANDARD), House([view()]), STANDARD)
        self.assertEqual(
            [(d.code, d.line) for d in doubts_found if d.level == "warning"],
            [("always-overridden", 13), ("no-fix", 13)],
        )
        self.assertEqual(sum(d.code == "untested" for d in doubts_found), 8)

    def test_a_list_of_releases_that_comes_to_an_end_is_doubted(self) -> None:
        rule = layer('setting = "driver.version"\nlisted = "approved"')
        release = (
            '[[release]]\nsetting = "driver.version"\nversion = "31.4"\nstanding = "approved"\nuntil = 2026-12-01\n'
        )
        messages = [d.message for d in lint(parse_standard(HEAD + release + rule)) if d.code == "runs-out"]
        self.assertEqual(messages, ["no release is approved any more after 1 Dec 2026"])
        more = release.replace("31.4", "31.5").replace("until = 2026-12-01\n", "")
        self.assertNotIn("runs-out", [code for code, _ in doubts(HEAD + release + more + rule)])

    def test_evidence_that_names_nothing_is_doubted(self) -> None:
        rule = 'setting = "power.profile"\nwant = "performance"\nevidence = "measured"'
        self.assertEqual([code for code, _ in doubts(HEAD + layer(rule))], ["unproven"])
        self.assertEqual(doubts(HEAD + layer(rule + '\nrests_on = "the renders of 12 May"')), [])
