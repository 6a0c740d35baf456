from unittest import TestCase

from normant_core.orders.kinds import InstallDriver
from normant_core.orders.packages import Package, install
from normant_core.seat.facts import Driver, Facts, Gpu, System


def package(version: str, branch: str, letter: str, *, platform: str = "", model: str = "Hadrel H60") -> Package:
    return Package((model,), platform, version, branch, letter * 64, 9)


HELD = (
    package("31.4.2", "steady", "a"),
    package("31.4.10", "steady", "b"),
    package("32.0.1", "swift", "c"),
    package("31.9", "steady", "d", platform="windows"),
    package("31.9", "steady", "e", model="Hadrel H40"),
)


def seat(version: str | None = "32.0.1") -> Facts:
    gpu = Gpu("gpu0", "Hadrel H60", "discrete", enabled=True, driver=Driver(version, "swift"))
    return Facts(system=System("linux"), gpus=(gpu,))


class Packages(TestCase):
    def test_the_newest_that_serves_the_seat_leads_there_and_the_present_one_back(self) -> None:
        order = install(HELD, seat(), "driver.branch", "steady")
        self.assertEqual(order, InstallDriver("gpu0", "32.0.1", "31.4.10", "b" * 64, 9, "c" * 64))

    def test_a_version_is_met_exactly_and_without_the_present_package_nothing_leads_back(self) -> None:
        order = install(HELD, seat("30.0"), "driver.version", "31.4.2")
        self.assertEqual(order, InstallDriver("gpu0", "30.0", "31.4.2", "a" * 64, 9, ""))

    def test_without_a_package_or_a_driver_that_was_read_there_is_no_order(self) -> None:
        for facts, setting, wanted in (
            (seat(), "driver.branch", "slow"),
            (seat(None), "driver.branch", "steady"),
            (Facts(), "driver.branch", "steady"),
            (seat(), "driver.released", "2026-01-01"),
        ):
            with self.subTest(f"{setting} {wanted}"):
                self.assertIsNone(install(HELD, facts, setting, wanted))
