import datetime as dt
import unittest

from hypothesis import given, settings

from normant_core.catalogue.settings import catalogue
from normant_core.house.causes import causes
from normant_core.house.cells import MUST, OFF, WAIVED, cells, distance_code
from normant_core.house.columns import House
from normant_core.house.verdicts import Standing
from normant_core.house.waivers import Waiver, rows_waived, waived
from normant_core.judging.groups import OpenFinding, cause_key, groups
from normant_core.judging.judge import Judge, View
from normant_core.standard.parse import parse_standard

from .test_standing import houses, standards
from .worked import STANDARD, judge_of, view

NOON = dt.datetime(2026, 3, 2, 12, tzinfo=dt.UTC)


def accepted(setting: str, app: str | None, *seats: str) -> Waiver:
    return Waiver(1, setting, app, frozenset(seats), {}, "so", NOON, None)


class Grid(unittest.TestCase):
    def test_a_cell_tells_status_severity_and_distance(self) -> None:
        standing = Standing(House([view()]), judge_of(STANDARD))
        codes = {key[0]: int(cells(case)[0]) for key, case in standing.cases.items() if key[1] in (None, "corrow")}
        self.assertEqual(codes["engine.effects"], OFF | MUST)
        self.assertEqual(codes["memory.held_back"], OFF | distance_code(-2.09) << 4)
        self.assertEqual([distance_code(d) for d in (None, -16, -2.09, 0.4, 16)], [0, 1, 6, 8, 15])

    @settings(max_examples=40, deadline=None)
    @given(standards(), houses)
    def test_waived_rows_are_those_that_seats_say_are_waived(self, text: str, views: tuple[View, ...]) -> None:
        judge = Judge(parse_standard(text))
        standing = Standing(House(views), judge)
        accepting = [accepted("memory.held_back", None, "s0", "s2"), accepted("playback.scale", "corrow")]
        rows = rows_waived(standing, accepting)
        for row, seen in enumerate(views):
            waived_keys = {v.key for v in waived(judge.verdicts(seen), seen.seat, accepting) if v.status == "waived"}
            self.assertEqual({key for key, waivers in rows.items() if row in waivers}, waived_keys)
            drawn = {key for key, case in standing.cases.items() if cells(case, rows.get(key, ()))[row] & 7 == WAIVED}
            self.assertEqual(drawn, waived_keys)


class Causes(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(standards(), houses)
    def test_they_are_the_groups_of_the_findings_seat_by_seat(self, text: str, views: tuple[View, ...]) -> None:
        judge = Judge(parse_standard(text))
        verdicts = [(seen.seat.name, v) for seen in views for v in judge.verdicts(seen) if v.status == "off-norm"]
        plain = groups(OpenFinding(number, name, verdict) for number, (name, verdict) in enumerate(verdicts))
        shown = sorted((g.verdict.key, sorted(g.seats)) for alike in plain for g in alike)
        causes_found = causes(Standing(House(views), judge), {})
        by_columns = sorted((c.case.key, sorted(f"s{row}" for row in c.rows.tolist())) for c in causes_found)
        self.assertEqual(by_columns, shown)
        # What tells of a finding by itself, as a notice does, and what is kept with it, says the same.
        keys = {cause_key(g.verdict) for alike in plain for g in alike}
        self.assertEqual(len(keys), len(shown))
        self.assertEqual(keys, {cause_key(verdict) for _, verdict in verdicts})

    def test_the_most_useful_comes_first_and_what_is_waived_is_left_out(self) -> None:
        standing = Standing(House([view()]), judge_of(STANDARD))
        self.assertEqual(
            next(c.title for c in causes(standing, {})), "Plinthe full raw decoding at delivery is false on pan-03"
        )
        rows = rows_waived(standing, [accepted("engine.effects", None)])
        keys = {c.case.key for c in causes(standing, rows)}
        self.assertNotIn(("engine.effects", "corrow"), keys)
        self.assertEqual(len(keys), 6)
        self.assertIn("engine.effects", catalogue())
