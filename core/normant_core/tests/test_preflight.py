from unittest import TestCase

import msgspec

from normant_core.plan.plan import SeatPlan
from normant_core.plan.preflight import NEEDED, Known, preflight
from normant_core.seat.facts import Facts, Volume
from normant_core.seat.survey import Activity, AgentInfo, Survey, parse_survey

from .test_plan import planned
from .worked import SURVEY

CLOSES = planned()
QUIET = SeatPlan("pan-03", tuple(change for change in CLOSES.changes if not change.close), ())


def survey(version: str = NEEDED, activity: Activity = Activity(5400, False, False)) -> Survey:  # noqa: B008 - frozen
    return msgspec.structs.replace(parse_survey(SURVEY), agent=AgentInfo(version, "stand-in"), activity=activity)


class Preflight(TestCase):
    def test_a_seat_at_rest_is_ready(self) -> None:
        self.assertEqual(preflight(CLOSES, Known(survey(), heard=True)), [])

    def test_whatever_stands_in_the_way_is_told(self) -> None:
        full = Facts(volumes=(Volume("v0", "/", free=12 * 10**6, system=True),))
        cases = {
            "not responding": Known(survey(), heard=False),
            "unsaved work": Known(survey(activity=Activity(9, False, True)), heard=True),
            "on battery": Known(survey(activity=Activity(5400, False, False, on_battery=True)), heard=True),
            "rendering": Known(survey(activity=Activity(5400, True, False)), heard=True),
            "in use": Known(survey(activity=Activity(9, False, False)), heard=True),
            "its agent is 0.1.9": Known(survey("0.1.9"), heard=True),
            "its agent is odd": Known(survey("odd"), heard=True),
            "only 12 MB free on /": Known(msgspec.structs.replace(survey(), facts=full), heard=True),
            "another rollout": Known(survey(), heard=True, at_work="another rollout is at work here"),
        }
        for words, known in cases.items():
            with self.subTest(words):
                obstacles = preflight(CLOSES, known)
                self.assertEqual(len(obstacles), 1)
                self.assertIn(words, obstacles[0])

    def test_an_editor_at_work_is_in_nobodys_way_where_nothing_has_to_be_closed(self) -> None:
        busy = survey(activity=Activity(1, False, True))
        self.assertEqual(preflight(QUIET, Known(busy, heard=True)), [])
