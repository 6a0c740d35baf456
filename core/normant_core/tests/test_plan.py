from unittest import TestCase

from normant_core.dialects.dialect import parse_dialect
from normant_core.judging.groups import OpenFinding, groups, house_sentence
from normant_core.judging.judge import Judge, View
from normant_core.judging.norms import Norm
from normant_core.orders.kinds import Order, SurveyNow, canonical, parse_order
from normant_core.plan.plan import Means, SeatPlan, plan_seat
from normant_core.plan.rounder import rounder_size
from normant_core.seat.survey import parse_survey
from normant_core.standard.parse import parse_standard

from .worked import DIALECT, PAN_03, STANDARD, SURVEY, judge, view


def planned(dialect: str = DIALECT, *, rounder: bool = False) -> SeatPlan:
    survey = parse_survey(SURVEY)
    natives = {(r.setting, r.app): r.native for r in survey.readings if r.native}
    verdicts = Judge(parse_standard(STANDARD)).verdicts(view())
    means = Means([parse_dialect(dialect)], rounder=rounder)
    return plan_seat("pan-03", verdicts, facts=survey.facts, natives=natives, means=means)


class Plans(TestCase):
    def test_changes_are_native_and_in_the_order_of_dependency(self) -> None:
        changes = [(c.setting, c.before, c.after, c.close) for c in planned().changes]
        self.assertEqual(
            changes,
            [
                ("power.profile", "balanced", "performance", None),
                ("engine.effects", "software", "hadrel", "corrow"),
                ("memory.held_back", "1536", "6554", "corrow"),
                ("memory.preview_pool", "256", "13108", "corrow"),
                ("store.source_cache.path", "/home/edit/corrow/cache", "/fast/corrow/source_cache", "corrow"),
            ],
        )

    def test_what_several_files_hold_is_left_to_people(self) -> None:
        made = planned(DIALECT.replace("corrow/8/preferences.xml", "corrow/8/*.xml", 1))
        self.assertEqual([change.setting for change in made.changes], ["power.profile"])
        self.assertIn(
            "several files hold this setting", {item.setting: item.why for item in made.left}["engine.effects"]
        )

    def test_a_store_is_moved_to_the_volume_that_is_fit(self) -> None:
        self.assertEqual(
            {c.setting: c.volume for c in planned().changes if c.volume}, {"store.source_cache.path": "v1"}
        )

    def test_what_the_system_holds_needs_no_file_and_what_starves_it_is_never_set(self) -> None:
        facts = parse_survey(SURVEY).facts
        for wanted, app, why in (
            ("normal", "corrow", ("above", "normal", None)),
            ("realtime", "corrow", "realtime starves the system: no order sets it"),
        ):
            with self.subTest(wanted):
                rule = f'setting = "power.process_priority"\nwant = "{wanted}"'
                seen = View(PAN_03, facts, {("power.process_priority", app): "above"})
                made = plan_seat("pan-03", judge(rule).verdicts(seen), facts=facts, natives={}, means=Means([]))
                changed = [(c.before, c.after, c.close) for c in made.changes]
                self.assertEqual([*changed, *(left.why for left in made.left)], [why])

    def test_a_size_worked_out_has_a_rounder_one_within_its_norm(self) -> None:
        offered = {change.setting: change.shown_rounder for change in planned().changes if change.shown_rounder}
        self.assertEqual(offered, {"memory.held_back": "6.5 GiB", "memory.preview_pool": "13 GiB"})
        taken = {change.setting: (change.after, change.shown_after) for change in planned(rounder=True).changes}
        self.assertEqual(taken["memory.preview_pool"], ("13312", "13 GiB"))
        self.assertEqual(taken["memory.held_back"], ("6656", "6.5 GiB"))
        self.assertEqual(taken["power.profile"], ("performance", "performance"))

    def test_a_rounder_size_stays_within_both_bounds_and_near(self) -> None:
        gib = 1024**3
        for norm, size, wanted in (
            (Norm("at_least", (int(12.8 * gib),), ""), int(12.8 * gib), 13 * gib),
            (Norm("at_most", (int(12.8 * gib),), ""), int(12.8 * gib), 12 * gib),
            (Norm("at_most", (int(51.2 * gib),), ""), int(51.2 * gib), 48 * gib),
            (Norm("between", (int(12.8 * gib), int(12.9 * gib)), ""), int(12.8 * gib), None),
            (Norm("at_least", (int(1.4 * gib),), ""), int(1.4 * gib), int(1.5 * gib)),
            (Norm("at_least", (8 * gib,), ""), 8 * gib, None),
            (Norm("at_least", (3,), ""), 3, None),
            (Norm("must", (), ""), int(12.8 * gib), None),
        ):
            with self.subTest(norm=norm):
                self.assertEqual(rounder_size(size, norm), wanted)

    def test_each_application_closes_once(self) -> None:
        self.assertEqual(planned().closes, ("corrow",))

    def test_what_no_order_can_settle_is_left_with_its_reason(self) -> None:
        left = {item.setting: item.why for item in planned().left}
        self.assertEqual(set(left), {"playback.scale", "delivery.full_raw"})
        self.assertIn("does not show which file", left["playback.scale"])


class Groups(TestCase):
    def test_one_cause_on_three_seats_is_one_group_and_comes_first(self) -> None:
        verdicts = Judge(parse_standard(STANDARD)).verdicts(view())
        memory, power = verdicts[1], verdicts[5]
        findings = [OpenFinding(n, f"pan-0{n}", memory) for n in (1, 2, 3)] + [OpenFinding(9, "pan-04", power)]
        made = groups(findings)
        self.assertEqual(made[0][0].title, "Corrow memory reserve is 1.5 GiB on 3 seats")
        self.assertEqual([g.seats for group in made for g in group], [("pan-01", "pan-02", "pan-03"), ("pan-04",)])

    def test_causes_on_the_same_seats_stand_together(self) -> None:
        verdicts = Judge(parse_standard(STANDARD)).verdicts(view())
        findings = [OpenFinding(n, f"pan-0{n % 2}", verdicts[n // 2]) for n in range(4)]
        self.assertEqual([len(group) for group in groups(findings)], [2])

    def test_the_house_in_a_sentence(self) -> None:
        self.assertEqual(
            house_sentence(left=5, back=2, decisions=4, since="yesterday at 18:00"),
            "Since yesterday at 18:00: 5 seats went off norm, 2 came back. 4 decisions needed.",
        )


class Orders(TestCase):
    def test_canonical_bytes_are_sorted_and_read_back_to_the_same_order(self) -> None:
        raw = b'{"seat":"a","id":"1","action":{"kind":"survey_now"},"expires":"2026-01-01T00:00:00Z"}'
        order = parse_order(raw)
        self.assertIsInstance(order.action, SurveyNow)
        self.assertEqual(parse_order(canonical(order)), order)
        self.assertIsInstance(order, Order)

    def test_nothing_but_the_closed_list_is_an_order(self) -> None:
        for kind in ("run", "shell", ""):
            raw = f'{{"seat":"a","id":"1","action":{{"kind":"{kind}"}},"expires":"2026-01-01T00:00:00Z"}}'
            with self.assertRaisesRegex(Exception, "kind|tag"):
                parse_order(raw.encode())
