import unittest
from collections import Counter

from hypothesis import given, settings

from normant_core.columns import House
from normant_core.drift import Judge, View
from normant_core.impact import Impact, impact, wanting
from normant_core.standard import parse_standard
from normant_core.standing import Standing

from .test_standing import houses, standards
from .worked import STANDARD, judge, judge_of, view


def between(one: Judge, two: Judge, *told: View) -> Impact:
    house = House(told)
    before = Standing(house, one)
    return impact(before, Standing(house, two, before))


def naive(one: Judge, two: Judge, told: View) -> Counter[str]:
    """Seat by seat, by what is said of each reading under either edition."""
    keys = {*told.readings, *one.named, *two.named, *(e.reading for e in told.errors if e.reading)}
    counted = Counter[str]()
    for key in keys:
        was, now = (next((v for v in judge_.verdicts(told, every=True) if v.key == key), None) for judge_ in (one, two))
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
        found = between(judge_of(STANDARD), judge_of(other), view())
        told = [(p.how, p.setting, p.count, p.seats) for p in found.parts]
        self.assertEqual(
            told, [("closes", "power.profile", 1, ("pan-03",)), ("changes", "playback.scale", 1, ("pan-03",))]
        )
        self.assertEqual([(s.name, s.closes, s.changes) for s in found.rooms], [("Pan House", 1, 1)])
        self.assertEqual(
            found.sentence, "This would close 1 finding on 1 seat and change 1 finding on 1 seat; 5 would stay."
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
        one = 'setting = "power.profile"\nwant = "performance"'
        must, why = judge(f'{one}\nseverity = "must"'), judge(f'{one}\nbecause = "so"')
        self.assertEqual([p.how for p in between(judge(one), must, view()).parts], ["changes"])
        self.assertEqual(
            between(judge(one), why, view()).sentence, "This would open and close nothing; 1 finding would stay."
        )

    def test_where_nothing_was_published_everything_opens(self) -> None:
        found = impact(None, Standing(House([view()]), judge_of(STANDARD)))
        self.assertEqual((found.sentence, found.kept), ("This would open 7 findings on 1 seat; 0 would stay.", 0))

    @settings(max_examples=50, deadline=None)
    @given(standards(), standards(), houses)
    def test_it_is_what_the_seats_say_one_by_one(self, one: str, two: str, told: tuple[View, ...]) -> None:
        first, second = Judge(parse_standard(one)), Judge(parse_standard(two))
        found = between(first, second, *told)
        counted = Counter[str]()
        for part in found.parts:
            counted["both" if part.how == "changes" else part.how] += part.count
        counted["both"] += found.kept
        self.assertEqual(+counted, sum((naive(first, second, seen) for seen in told), Counter()))
