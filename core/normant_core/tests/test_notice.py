import unittest

from normant_core.judging.groups import OpenFinding
from normant_core.judging.judge import Verdict
from normant_core.judging.norms import Norm
from normant_core.words.notice import MOST, Thing, of_musts, of_round


def finding(number: int, seat: str, reading: str = "hadrel") -> OpenFinding:
    norm = Norm("must", (), "an interface that a GPU offers", "reading in interfaces")
    verdict = Verdict(
        setting="engine.effects",
        app="corrow",
        status="off-norm",
        severity="must",
        reading=reading,
        reading_shown=reading,
        norm=norm,
        distance=None,
        fix="opencl",
        fix_shown="opencl",
        layer="Whole facility",
        chain=(),
        because="It falls back without a word.",
        evidence="untested",
    )
    return OpenFinding(number, seat, verdict)


class OfMusts(unittest.TestCase):
    def test_one_cause_is_the_subject_with_its_words_its_fix_and_its_seats(self) -> None:
        notice = of_musts([finding(1, "pan-02"), finding(2, "pan-01")])
        self.assertEqual(notice.subject, "Corrow effects engine is hadrel on 2 seats")
        self.assertEqual(
            notice.text("https://normant.brinehouse.example").splitlines(),
            [
                "2 new critical findings on 2 seats.",
                "",
                "Corrow effects engine is hadrel on 2 seats",
                "  Effects engine is hadrel, house standard: an interface that a GPU offers. It falls back without a word.",
                "  Correction: opencl",
                "  On pan-01, pan-02",
                "",
                "https://normant.brinehouse.example",
            ],
        )

    def test_of_many_causes_it_tells_some_and_counts_the_rest(self) -> None:
        notice = of_musts([finding(i, f"pan-{i:02}", f"maker{i}") for i in range(MOST + 5)])
        self.assertEqual(notice.subject, "25 critical findings on 25 seats")
        self.assertEqual((len(notice.things), notice.more), (MOST, 5))
        self.assertIn("And 5 more.", notice.text())

    def test_a_subject_is_one_line_of_a_bounded_length(self) -> None:
        subject = of_musts([finding(1, "pan-02", "a\nBcc: b\r\n" + "c" * 500)]).subject
        self.assertEqual((subject.splitlines(), len(subject)), ([subject], 200))

    def test_a_thing_on_very_many_seats_names_some(self) -> None:
        notice = of_musts([finding(i, f"pan-{i:04}") for i in range(300)])
        self.assertEqual((len(notice.things[0].seats), notice.things[0].count), (100, 300))
        self.assertIn("pan-0011 and 288 more", notice.text())


class OfRound(unittest.TestCase):
    def test_it_tells_what_wants_a_decision_and_what_changed(self) -> None:
        notice = of_round(
            "Nothing left.", [Thing("loft-02 is silent", "its agent has not been heard")], ["A came back"]
        )
        self.assertEqual(notice.subject, "1 decision needed")
        self.assertEqual(notice.text().count("\n  "), 2)
        self.assertEqual(notice.payload()["overnight"], ("A came back",))

    def test_a_quiet_night_is_told_too(self) -> None:
        notice = of_round("No decisions needed.", [], [])
        self.assertEqual((notice.subject, notice.text()), ("0 decisions needed", "No decisions needed.\n"))
