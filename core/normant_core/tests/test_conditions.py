"""What a condition of a trial sets on a seat."""

from typing import get_args
from unittest import TestCase

from normant_core.measure.conditions import values_of
from normant_core.orders.kinds import Change, SetGpuPreference, SetPowerProfile, SetPreference, SetPriority, Settable

GIB = 2**30


class Values(TestCase):
    def test_every_kind_of_change_says_what_it_sets(self) -> None:
        changes = (
            SetPreference(
                "corrow",
                "preferences",
                (
                    Change("memory.preview_pool", "256", "8192", 8 * GIB),
                    Change("memory.held_back", "1", "2", 2 * GIB),
                ),
            ),
            SetPowerProfile("balanced", "performance"),
            SetPriority("corrow", "normal", "above"),
            SetGpuPreference("glaize", "auto", "performance"),
        )
        self.assertEqual({type(change) for change in changes}, set(get_args(Settable)))
        self.assertEqual(
            values_of(changes),
            {
                ("memory.preview_pool", "corrow", 8 * GIB),
                ("memory.held_back", "corrow", 2 * GIB),
                ("power.profile", None, "performance"),
                ("power.process_priority", "corrow", "above"),
                ("engine.system_preference", "glaize", "performance"),
            },
        )
