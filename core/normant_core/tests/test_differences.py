import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.differences import Readings, between, culprit, facts_between, score, usual
from normant_core.facts import Facts, Gpu, Memory, Volume
from normant_core.machine import budget, flows

GIB = 2**30
PAN: Readings = {
    ("engine.effects", "corrow"): "cpu",
    ("memory.preview_pool", "corrow"): GIB,
    ("playback.overlays", "corrow"): True,
}
GOOD: Readings = {
    ("engine.effects", "corrow"): "hadrel",
    ("memory.preview_pool", "corrow"): 16 * GIB,
    ("playback.overlays", "corrow"): True,
}
VALUES = st.dictionaries(st.sampled_from([*PAN, ("power.profile", None)]), st.sampled_from(["cpu", "hadrel"]))


class Compare(TestCase):
    def test_a_value_that_few_peers_share_is_a_surprise(self) -> None:
        self.assertEqual(round(score(1, 1, 11), 2), 2.7)  # log2(13/2)
        self.assertEqual(score(2, 0, 0), 2.0)  # without peers, a coin's one bit

    def test_what_differs_comes_in_the_order_of_its_score(self) -> None:
        found = between(PAN, GOOD, peers=[GOOD, GOOD, {**GOOD, ("memory.preview_pool", "corrow"): GIB}])
        self.assertEqual(
            [(d.setting, d.mine, d.theirs, d.sharing, d.peers) for d in found],
            [("engine.effects", "cpu", "hadrel", 0, 3), ("memory.preview_pool", "1 GiB", "16 GiB", 1, 3)],
        )
        self.assertEqual(
            culprit(found, healthy=3),
            "Most likely Effects of Corrow: cpu here, hadrel there; 0 of 3 healthy peers have it so.",
        )

    def test_what_a_trial_has_measured_counts_for_more(self) -> None:
        found = between(PAN, GOOD, peers=[GOOD], measured={"memory.preview_pool"})
        self.assertEqual(found[0].setting, "memory.preview_pool")

    @given(VALUES, VALUES, st.lists(VALUES, max_size=4))
    def test_a_seat_does_not_differ_from_itself_and_differs_both_ways(self, mine, theirs, peers) -> None:  # type: ignore[no-untyped-def]
        self.assertEqual(between(mine, mine, peers=peers), [])
        there, back = between(mine, theirs, peers=peers), between(theirs, mine, peers=peers)
        self.assertEqual({(d.setting, d.app) for d in there}, {(d.setting, d.app) for d in back})
        self.assertTrue(all(math.isfinite(d.score) for d in there))

    def test_the_usual_value_is_what_most_peers_hold(self) -> None:
        self.assertEqual(usual([GOOD, GOOD, PAN])["engine.effects", "corrow"], "hadrel")

    def test_facts_differ_by_name_and_not_by_what_moves_by_itself(self) -> None:
        one = Facts(memory=Memory(64 * GIB), volumes=(Volume("v1", "/cove", free=5, attached=True),))
        two = Facts(memory=Memory(32 * GIB), volumes=(Volume("v1", "/cove", free=9, attached=False),))
        self.assertEqual(
            facts_between(one, two), [("memory total", "64 GiB", "32 GiB"), ("volume v1 attached", "yes", "no")]
        )


class Machine(TestCase):
    GPUS = (
        Gpu("gpu0", enabled=True, interfaces=("hadrel", "opencl"), decode=("avc/8/420",)),
        Gpu("gpu1", enabled=False, interfaces=("vulkan",), decode=("hevc/10/422",)),
    )

    def test_each_work_goes_to_a_device_or_says_why_not(self) -> None:
        asked: Readings = {
            ("engine.effects", "corrow"): "vulkan",
            ("engine.decode", "corrow"): "gpu1",
            ("engine.encode", "corrow"): "auto",
            ("engine.effects", "plinthe"): "opencl",
            ("engine.decode", "plinthe"): "auto",
        }
        told = [(f.app, f.work, f.device, f.why) for f in flows(Facts(gpus=self.GPUS), asked)]
        self.assertEqual(
            told,
            [
                ("corrow", "decode", None, "gpu1 is off in firmware"),
                ("corrow", "effects", None, "no enabled GPU offers vulkan"),
                ("corrow", "encode", "cpu", ""),
                ("plinthe", "decode", "gpu0", ""),
                ("plinthe", "effects", "gpu0", ""),
            ],
        )

    def test_memory_is_cut_into_shares_that_may_go_beyond_it(self) -> None:
        readings: Readings = {
            ("memory.held_back", "corrow"): 6 * GIB,
            ("memory.preview_pool", "corrow"): 16 * GIB,
            ("engine.workers", "plinthe"): 14,
            ("memory.per_worker", "plinthe"): 3 * GIB,
            ("memory.app_ceiling", "pockle"): 8 * GIB,
        }
        told = budget(Facts(memory=Memory(64 * GIB)), readings)
        assert told
        self.assertEqual(
            [(s.name, s.app, s.size // GIB) for s in told.shares],
            [
                ("System", None, 2),
                ("Held back", None, 4),
                ("Preview pool", "corrow", 16),
                ("Workers", "plinthe", 42),
                ("Ceiling", "pockle", 8),
            ],
        )
        self.assertEqual(told.over, 8 * GIB)
