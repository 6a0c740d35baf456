import datetime as dt
import os
import tempfile
from pathlib import Path
from unittest import TestCase

from normant_agent.errors import HostError
from normant_core.dialects.dialect import parse_dialect
from normant_core.seat.survey import Survey
from normant_standin import history, scenario
from normant_standin.host import StandInHost

DEMO = Path(__file__).parents[3] / "demo" / "brinehouse"
NOW = dt.datetime(2026, 11, 25, 21, tzinfo=dt.UTC)
DIALECTS = [parse_dialect(path.read_text("utf-8")) for path in sorted((DEMO / "dialects").glob("*.toml"))]


SCENARIO = scenario.load(DEMO)
MOMENTS = history.moments(SCENARIO, history.load(DEMO), NOW)


class ThirtyDays(TestCase):
    def _survey(self, seat: str, days_ago: float) -> Survey:
        """The last survey of a seat before that moment."""
        before = NOW - dt.timedelta(days=days_ago)
        moment = [m for m in MOMENTS if m.seat.name == seat and m.at <= before][-1]
        return history.survey_at(SCENARIO, moment, DIALECTS, templates=DEMO / "preferences")

    def test_every_seat_begins_thirty_days_ago_and_ends_as_the_scenario_has_it(self) -> None:
        last = {moment.seat.name: moment.seat for moment in MOMENTS}
        self.assertEqual(last, {seat.name: seat for seat in SCENARIO.seats})
        self.assertEqual(sum(m.at < NOW - dt.timedelta(days=29.99) for m in MOMENTS), 28)

    def test_the_share_goes_up_at_night_and_down_in_the_morning(self) -> None:
        shares = [self._survey("pan-07", ago).values()["memory.app_ceiling", "pockle"] for ago in (8.5, 8.0, 7.5)]
        self.assertEqual([round(float(str(share)) / 2**35, 2) for share in shares], [0.75, 0.4, 0.75])

    def test_a_key_that_moved_is_read_through_the_change_of_version(self) -> None:
        places = []
        for ago in (23, 22):
            survey = self._survey("rake-01", ago)
            native = next(r.native for r in survey.readings if r.setting == "memory.held_back")
            places.append((native and native.file, native and native.at))
        self.assertEqual(
            places, [("plinthe/8/bench.json", "/memory/spare_mb"), ("plinthe/9/bench.json", "/room/leave_mib")]
        )

    def test_the_disk_fills_day_by_day(self) -> None:
        free = [v.free for ago in (20, 10, 0) for v in self._survey("loft-03", ago).facts.volumes or () if v.id == "v1"]
        self.assertEqual(free, [274_000_000_000, 154_000_000_000, 46_000_000_000])


class Quirks(TestCase):
    def setUp(self) -> None:
        made = tempfile.TemporaryDirectory()
        self.addCleanup(made.cleanup)
        self.folder = Path(made.name)

    def _host(self, name: str) -> StandInHost:
        seat = next(seat for seat in SCENARIO.seats if seat.name == name)
        scenario.build(SCENARIO, seat, self.folder, templates=DEMO / "preferences")
        return StandInHost(self.folder)

    def test_a_full_disk_takes_no_file(self) -> None:
        host = self._host("sluice-03")
        with self.assertRaisesRegex(HostError, "No space left"):
            host.write(host.preference_root / "corrow/8/preferences.xml", b"x", mark="o1")

    def test_a_clock_is_behind(self) -> None:
        late = dt.datetime.now(dt.UTC) - self._host("loft-06").now()
        self.assertAlmostEqual(late.total_seconds(), 1200, delta=60)

    def test_what_was_corrected_is_changed_back_by_hand(self) -> None:
        host = self._host("pan-07")
        path = host.preference_root / "pockle/3/pockle.ini"
        before = path.read_bytes()
        path.write_bytes(before.replace(b"SharePct=75", b"SharePct=40"))
        host.put_back_by_habit()
        self.assertNotEqual(path.read_bytes(), before)
        an_hour_ago = dt.datetime.now().timestamp() - 3600
        os.utime(path, (an_hour_ago, an_hour_ago))
        host.put_back_by_habit()
        self.assertEqual(path.read_bytes(), before)
