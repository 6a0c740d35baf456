import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.seat.comparison import (
    Readings,
    between,
    between_machines,
    culprit,
    effect_words,
    facts_between,
    machine_of,
    ranked,
    score,
    usual,
)
from normant_core.seat.facts import Facts, Gpu, Memory, Volume

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
        differences = between(PAN, GOOD, peers=[GOOD, GOOD, {**GOOD, ("memory.preview_pool", "corrow"): GIB}])
        self.assertEqual(
            [(d.setting, d.mine, d.theirs, d.sharing, d.peers) for d in differences],
            [("engine.effects", "cpu", "hadrel", 0, 3), ("memory.preview_pool", "1 GiB", "16 GiB", 1, 3)],
        )
        self.assertEqual(
            culprit(differences, healthy=3),
            "Most likely Corrow effects engine: cpu here, hadrel there; 0 of 3 peers have this value.",
        )

    def test_without_a_likely_cause_it_says_whether_anything_differs(self) -> None:
        self.assertEqual(culprit([], healthy=3), "No differences.")
        self.assertEqual(culprit([], healthy=3, facts=2), "No differences that affect playback.")

    def test_the_likely_effect_is_a_word(self) -> None:
        words = [effect_words(points) for points in (-1, 0, 0.1, 1.5, 3.9, 4)]
        self.assertEqual(words, ["none", "none", "weak", "moderate", "moderate", "strong"])

    def test_what_a_trial_has_measured_counts_for_more(self) -> None:
        differences = between(PAN, GOOD, peers=[GOOD], measured={"memory.preview_pool"})
        self.assertEqual(differences[0].setting, "memory.preview_pool")

    @given(VALUES, VALUES, st.lists(VALUES, max_size=4))
    def test_a_seat_does_not_differ_from_itself_and_differs_both_ways(self, ours, theirs, peers) -> None:  # type: ignore[no-untyped-def]
        self.assertEqual(between(ours, ours, peers=peers), [])
        there, back = between(ours, theirs, peers=peers), between(theirs, ours, peers=peers)
        self.assertEqual({(d.setting, d.app) for d in there}, {(d.setting, d.app) for d in back})
        self.assertTrue(all(math.isfinite(d.score) for d in there))

    def test_the_usual_value_is_what_most_peers_hold(self) -> None:
        self.assertEqual(usual([GOOD, GOOD, PAN])["engine.effects", "corrow"], "hadrel")

    def test_facts_differ_by_name_and_not_by_what_moves_by_itself(self) -> None:
        first = Facts(memory=Memory(64 * GIB), volumes=(Volume("v1", "/cove", free=5, attached=True),))
        two = Facts(memory=Memory(32 * GIB), volumes=(Volume("v1", "/cove", free=9, attached=False),))
        self.assertEqual(
            facts_between(machine_of(first), machine_of(two)),
            [("memory total", "64 GiB", "32 GiB"), ("volume v1 attached", "yes", "no")],
        )

    def test_parts_of_the_machine_are_ranked_with_the_settings(self) -> None:
        whole = Facts(
            memory=Memory(64 * GIB),
            gpus=(Gpu("gpu0", model="Hadrel H60", enabled=True),),
            volumes=(Volume("v1", "/cove", kind="nvme", capacity=1000, free=600),),
        )
        full = Volume("v1", "/cove", kind="nvme", capacity=1000, free=40)
        worse = Facts(memory=Memory(64 * GIB), gpus=(Gpu("gpu0", model="Hadrel H60", enabled=False),), volumes=(full,))
        ours, peer = machine_of(worse), machine_of(whole)
        parts = between_machines(ours, usual([peer, peer]), peers=[peer, peer])
        self.assertEqual(
            [(part.title, part.mine, part.theirs, part.sharing, part.peers) for part in parts],
            [("GPU gpu0 enabled", "no", "yes", 0, 2), ("Volume v1 free", "under 5 %", "over 25 %", 0, 2)],
        )
        settings = between(PAN, GOOD, peers=[GOOD, GOOD])
        self.assertEqual(ranked([*settings, *parts])[0].score, max(d.score for d in [*settings, *parts]))
        self.assertIn("GPU gpu0 enabled: no here, yes there", culprit(ranked(parts), healthy=2))

    def test_a_full_volume_is_scarce_and_a_machine_may_have_none(self) -> None:
        full, half = (machine_of(Facts(volumes=(Volume("v1", "/c", capacity=100, free=n),))) for n in (0, 50))
        self.assertEqual([part.mine for part in between_machines(full, half, peers=[])], ["under 5 %"])
        bare = machine_of(Facts(gpus=(), volumes=(), displays=(), applications=()))
        self.assertEqual([part.setting for part in between_machines(bare, half, peers=[half])], ["volume v1 free"])

    def test_free_space_that_is_as_scarce_does_not_differ(self) -> None:
        first, two = (machine_of(Facts(volumes=(Volume("v1", "/c", capacity=100, free=n),))) for n in (40, 90))
        self.assertEqual(between_machines(first, two, peers=[]), [])
