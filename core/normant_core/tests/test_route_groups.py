"""Decode routes of similar seats, summed up in groups."""

from unittest import TestCase

from normant_core.measure.machine.routes import Candidate, Route, SeatRoutes, group_routes, routes_words, similar_seats


def route(codec: str, device: str, rate: float | None = None, why: str = "") -> Route:
    passed_over = (Candidate("gpu0", why),) if why else ()
    return Route(codec, None, device, rate, None, (*passed_over, Candidate(device, "", rate)))


def seat(name: str, *routes: Route, hardware_class: str = "tall") -> SeatRoutes:
    return SeatRoutes(name, hardware_class, routes)


class RouteGroups(TestCase):
    def test_groups_seats_of_a_class_with_the_same_devices_and_reasons(self) -> None:
        seats = [
            seat("pan-01", route("avc", "gpu0")),
            seat("pan-02", route("avc", "cpu", why="is off in firmware")),
            seat("kiln-01", route("avc", "gpu0"), hardware_class="grand"),
            seat("pan-03", route("avc", "gpu0", rate=240)),
            seat("pan-04", route("avc", "cpu", why="has no driver")),
        ]
        names = [[row.seat for row in group] for group in similar_seats(seats)]
        self.assertEqual(names, [["kiln-01"], ["pan-01", "pan-03"], ["pan-02"], ["pan-04"]])

    def test_the_rate_of_a_group_is_the_mean_of_its_measured_seats(self) -> None:
        group = [seat("a", route("avc", "cpu", 20)), seat("b", route("avc", "cpu", 80)), seat("c", route("avc", "cpu"))]
        (shared,) = group_routes(group, needed=50)
        self.assertAlmostEqual(shared.rate or 0, 40)
        self.assertEqual((shared.plays, shared.measured_on), (False, ("a", "b")))
        self.assertTrue(group_routes(group, needed=40 - 1e-6)[0].plays)
        self.assertIsNone(group_routes(group, needed=0)[0].plays)

    def test_a_group_without_a_measured_seat_has_no_rate(self) -> None:
        (shared,) = group_routes([seat("a", route("avc", "cpu"))], needed=25)
        self.assertEqual((shared.rate, shared.plays, shared.measured_on), (None, None, ()))

    def test_the_sentence_counts_slow_and_unmeasured_combinations(self) -> None:
        group = [seat("a", route("avc", "cpu", 10), route("hevc", "gpu0", 90), route("ffv1", "cpu"))]
        self.assertEqual(
            routes_words(group_routes(group, 25), 25),
            "1 of 3 combinations is too slow for 25 fps, 1 not measured",
        )
        self.assertEqual(
            routes_words(group_routes(group, 100), 23.976),
            "2 of 3 combinations are too slow for 23.976 fps, 1 not measured",
        )
