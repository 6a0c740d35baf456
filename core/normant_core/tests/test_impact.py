import unittest
from collections import Counter

from hypothesis import given, settings

from normant_core.house.columns import House
from normant_core.house.impact import Impact, impact, wanting
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge, View
from normant_core.standard.parse import parse_standard

from .test_standing import houses, standards
from .worked import STANDARD, judge, judge_of, view


def between(first: Judge, two: Judge, *views: View) -> Impact:
    house = House(views)
    before = Standing(house, first)
    return impact(before, Standing(house, two, before))


def naive(first: Judge, two: Judge, seen: View) -> Counter[str]:
    """Seat by seat, by what is said of each reading under either edition."""
    keys = {*seen.readings, *first.named, *two.named, *(e.reading for e in seen.errors if e.reading)}
    counted = Counter[str]()
    for key in keys:
        was, now = (
            next((v for v in judge_.verdicts(seen, every=True) if v.key == key), None) for judge_ in (first, two)
        )
        off, on = (v is not None and v.status == "off-norm" for v in (was, now))
        blind = now is not None and now.status == "unread"
        counted["opens"] += on and not off
        counted["closes"] += off and not on and not blind
        counted["unread"] += blind and not (was is not None and was.status == "unread")
        counted["both"] += off and on
    return +counted


class ImpactOfAnEdition(unittest.TestCase):
    def test_it_counts_what_opens_closes_and_changes(self) -> None:
        other = STANDARD.replace('want = "performance"', 'want = "balanced"').replace(
            'at_most = "1/2"', 'at_most = "1/4"'
        )
        result = between(judge_of(STANDARD), judge_of(other), view())
        parts = [(p.how, p.setting, p.count, p.seats) for p in result.parts]
        self.assertEqual(
            parts, [("closes", "power.profile", 1, ("pan-03",)), ("changes", "playback.scale", 1, ("pan-03",))]
        )
        self.assertEqual([(s.name, s.closes, s.changes) for s in result.rooms], [("Pan House", 1, 1)])
        self.assertEqual(
            result.sentence, "This would close 1 finding on 1 seat and change 1 finding on 1 seat; 5 would stay."
        )

    def test_what_would_have_to_be_settled_is_what_opens_or_changes(self) -> None:
        other = STANDARD.replace('want = "performance"', 'want = "balanced"').replace(
            'at_most = "1/2"', 'at_most = "1/4"'
        )
        house = House([view()])
        before, after = (Standing(house, judge_of(text)) for text in (STANDARD, other))
        self.assertEqual(wanting(before, after), {0: [("playback.scale", "corrow")]})
        self.assertCountEqual(wanting(after, before)[0], [("power.profile", None), ("playback.scale", "corrow")])
        self.assertEqual(wanting(before, before), {})

    def test_a_severity_is_a_change_and_a_reason_is_none(self) -> None:
        rule = 'setting = "power.profile"\nwant = "performance"'
        must, why = judge(f'{rule}\nseverity = "must"'), judge(f'{rule}\nbecause = "so"')
        self.assertEqual([p.how for p in between(judge(rule), must, view()).parts], ["changes"])
        self.assertEqual(
            between(judge(rule), why, view()).sentence, "This would open and close nothing; 1 finding would stay."
        )

    def test_where_nothing_was_published_everything_opens(self) -> None:
        result = impact(None, Standing(House([view()]), judge_of(STANDARD)))
        self.assertEqual((result.sentence, result.kept), ("This would open 7 findings on 1 seat; 0 would stay.", 0))

    @settings(max_examples=50, deadline=None)
    @given(standards(), standards(), houses)
    def test_it_is_what_the_seats_say_one_by_one(self, one_text: str, two: str, views: tuple[View, ...]) -> None:
        first, second = Judge(parse_standard(one_text)), Judge(parse_standard(two))
        result = between(first, second, *views)
        counted = Counter[str]()
        for part in result.parts:
            counted["both" if part.how == "changes" else part.how] += part.count
        counted["both"] += result.kept
        self.assertEqual(+counted, sum((naive(first, second, seen) for seen in views), Counter()))
