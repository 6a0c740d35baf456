"""Where stores lie best, against every placement there is; and the order of their moves, against every order."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import permutations, product
from pathlib import Path
from unittest import TestCase

import msgspec
from hypothesis import given, settings
from hypothesis import strategies as st

from normant_core.base.errors import DocumentError
from normant_core.care.moves import ordered_moves
from normant_core.care.placement import (
    APART,
    MOST_BYTES,
    PlacedStore,
    Placement,
    PlacementError,
    arranged,
    fastest,
    is_fit,
    missing_disk,
    place,
    room_of,
)
from normant_core.care.wanted_stores import read_stores, stores_of
from normant_core.seat.facts import Volume
from normant_core.seat.survey import parse_survey

EXAMPLES = Path(__file__).resolve().parents[3] / "docs" / "examples"
TB = 10**12
SYSTEM = Volume("v0", "/", kind="ssd", capacity=TB, free=500 * 10**9, system=True, attached=True, read_rate=500)
FAST = Volume("v1", "/fast", kind="nvme", capacity=2 * TB, free=TB, system=False, attached=True, read_rate=3000)
WIDE = Volume("v2", "/wide", kind="hdd", capacity=8 * TB, free=6 * TB, system=False, attached=True, read_rate=180)
ALL = [SYSTEM, FAST, WIDE]


def store(purpose: str, gigabytes: int, volume: str | None = "v0", **other: object) -> PlacedStore:
    """One that needs what it holds."""
    size = gigabytes * 10**9
    return PlacedStore(purpose, purpose, size, size, volume, **other)  # type: ignore[arg-type] # as the test names them


class Placed(TestCase):
    def test_frame_cache_on_the_fastest_and_exports_apart(self) -> None:
        made = place([store("frame_cache", 200), store("source_cache", 100), store("exports", 300)], ALL)
        self.assertEqual(made.volumes, {"frame_cache": "v1", "source_cache": "v1", "exports": "v2"})
        self.assertEqual((made.violations, made.moved), ((), 600 * 10**9))
        self.assertIn("not the system volume, fastest volume", made.whys["frame_cache"])

    def test_what_lies_well_stays(self) -> None:
        made = place([store("source_cache", 100, "v2"), store("proxies", 100, "v1")], ALL)
        self.assertEqual((made.volumes, made.moved), ({"source_cache": "v2", "proxies": "v1"}, 0))

    def test_what_cannot_be_mended_is_told(self) -> None:
        made = place([store("frame_cache", 200, "v0"), store("exports", 10, "v0")], [SYSTEM])
        self.assertEqual(made.moved, 0)
        self.assertEqual(len(made.violations), 3)
        self.assertIn("frame_cache and exports share v0", made.violations)

    def test_hard_rules_are_never_broken(self) -> None:
        barred = [
            msgspec.structs.replace(WIDE, attached=False),
            msgspec.structs.replace(WIDE, removable=True),
            msgspec.structs.replace(WIDE, writable=False),
            msgspec.structs.replace(WIDE, free=None),
            msgspec.structs.replace(WIDE, free=100 * 10**9),
        ]
        for volume in barred:
            with self.subTest(volume):
                self.assertNotEqual(place([store("exports", 50)], [SYSTEM, volume]).volumes, {"exports": "v2"})
        made = place([store("frame_cache", 50, only=("v2",)), store("sources", 900, "v0", pinned=True)], ALL)
        self.assertEqual(made.volumes, {"frame_cache": "v2", "sources": "v0"})
        self.assertIn("never moved", made.whys["sources"])

    def test_where_there_is_no_placement_it_says_why_and_which_disk_is_missing(self) -> None:
        for stores, words in [
            ([store("exports", 20_000, None)], "no suitable volume has enough space"),
            ([store("exports", 4_000, None), store("renders", 4_000, None)], "bytes: not enough space"),
            ([store("exports", 1, only=("v9",))], "no volume is suitable"),
        ]:
            with self.subTest(words):
                self.assertIn(words, place(stores, ALL).impossible)
        self.assertEqual(missing_disk([store("exports", 4_000, None), store("renders", 3_600, None)], ALL), 4 * TB)
        self.assertEqual(missing_disk([store("exports", 10)], ALL), 0)
        with self.assertRaisesRegex(PlacementError, "would not help"):
            missing_disk([store("exports", 1, only=("v9",))], ALL)

    def test_more_than_a_seat_has_is_refused(self) -> None:
        for stores in ([store("exports", n) for n in range(13)], [store("exports", MOST_BYTES // 10**9 + 1)]):
            with self.assertRaises(PlacementError):
                place(stores, ALL)


VOLUMES = st.lists(
    st.builds(
        lambda free, **other: Volume(id="", mount="/", free=free, **other),
        st.sampled_from([None, 0, 30, 60, 100]),
        kind=st.sampled_from(["nvme", "ssd", "hdd", "network", None]),
        capacity=st.sampled_from([100, 200]),
        system=st.booleans(),
        removable=st.sampled_from([None, False, True]),
        attached=st.sampled_from([None, True, True, False]),
        read_rate=st.sampled_from([None, 100, 500]),
    ),
    min_size=1,
    max_size=4,
).map(lambda volumes: [msgspec.structs.replace(volume, id=f"v{n}") for n, volume in enumerate(volumes)])
STORES = st.lists(
    st.builds(
        lambda purpose, size, grows, volume, only, pinned: PlacedStore(
            "", purpose, size, size + grows, volume, only, pinned
        ),
        st.sampled_from(["source_cache", "frame_cache", "exports", "sources", "proxies"]),
        st.integers(0, 60),
        st.sampled_from([0, 0, 20]),
        st.sampled_from(["v0", "v0", "v1", None]),
        st.sampled_from([(), (), ("v1",), ("v0", "v2")]),
        st.sampled_from([False, False, False, True]),
    ),
    min_size=1,
    max_size=5,
).map(lambda stores: [replace(each, name=f"s{n}") for n, each in enumerate(stores)])


def by_hand(stores: Sequence[PlacedStore], volumes: Sequence[Volume]) -> tuple[int, int] | None:
    """Violations and bytes moved of the best of all placements; None where there is none."""
    fast, costs = fastest(volumes), list[tuple[int, int]]()
    for on in product(volumes, repeat=len(stores)):
        if all(_may(each, volume) for each, volume in zip(stores, on, strict=True)) and all(
            _has_room(stores, on, volume) for volume in volumes
        ):
            broken = sum(bool(volume.system) for volume in on)
            broken += sum(s.purpose == "frame_cache" and v.id != fast for s, v in zip(stores, on, strict=True))
            for volume in volumes:
                groups = {
                    APART[s.purpose] for s, v in zip(stores, on, strict=True) if v is volume and s.purpose in APART
                }
                broken += max(0, len(groups) - 1)
            costs.append((broken, sum(s.size for s, v in zip(stores, on, strict=True) if s.volume != v.id)))
    return min(costs, default=None)


def _may(each: PlacedStore, volume: Volume) -> bool:
    if each.pinned:
        return each.volume == volume.id
    return is_fit(volume) and (not each.only or volume.id in each.only)


def _has_room(stores: Sequence[PlacedStore], on: Sequence[Volume], volume: Volume) -> bool:
    room, arriving = room_of(volume), 0
    for each, there in zip(stores, on, strict=True):
        if each.volume == volume.id and there is not volume:
            room += each.size
        elif there is volume:
            arriving += each.need - (each.size if each.volume == volume.id else 0)
    return arriving == 0 or arriving <= room


class Exact(TestCase):
    @settings(max_examples=250, deadline=None)
    @given(STORES, VOLUMES)
    def test_no_placement_is_better_and_none_is_missed(self, stores: list[PlacedStore], volumes: list[Volume]) -> None:
        made, best = place(stores, volumes), by_hand(stores, volumes)
        if best is None:
            self.assertTrue(made.impossible)
        else:
            self.assertEqual((len(made.violations), made.moved), best)
            self.assertEqual(made.impossible, "")
            again = arranged(stores, volumes, made.volumes)
            self.assertEqual((again.impossible, again.violations, again.moved), ("", made.violations, made.moved))

    @settings(max_examples=250, deadline=None)
    @given(STORES, VOLUMES, st.data())
    def test_one_that_a_person_chose_is_judged_by_the_same_rules(
        self, stores: list[PlacedStore], volumes: list[Volume], data: st.DataObject
    ) -> None:
        on = [data.draw(st.sampled_from(volumes)) for _ in stores]
        made = arranged(stores, volumes, {each.name: there.id for each, there in zip(stores, on, strict=True)})
        may = all(each.volume == there.id or _may(each, there) for each, there in zip(stores, on, strict=True))
        possible = may and all(_has_room(stores, on, volume) for volume in volumes)
        self.assertEqual(not made.impossible, possible, made.impossible)

    @settings(max_examples=150, deadline=None)
    @given(STORES, VOLUMES)
    def test_the_missing_disk_is_enough_and_a_smaller_one_is_not(
        self, stores: list[PlacedStore], volumes: list[Volume]
    ) -> None:
        try:
            size = missing_disk(stores, volumes)
        except PlacementError:
            return

        def with_disk(capacity: int) -> Placement:
            new = Volume("new", "/new", kind="ssd", capacity=capacity, free=capacity, system=False, attached=True)
            return place(stores, [*volumes, new])

        self.assertEqual(with_disk(size).impossible if size else place(stores, volumes).impossible, "")
        if size > 2 and not any(each.only for each in stores):
            self.assertTrue(with_disk(size - 2).impossible)


class Moves(TestCase):
    def test_two_stores_change_places_by_way_of_a_third_volume(self) -> None:
        volumes = [
            Volume(name, f"/{name}", capacity=1000, free=free, system=False, attached=True)
            for name, free in (("a", 150), ("b", 150), ("c", 250))
        ]
        stores = [PlacedStore("x", "renders", 100, 100, "a"), PlacedStore("y", "exports", 120, 120, "b")]
        order = ordered_moves(stores, volumes, {"x": "b", "y": "a"})
        assert order
        self.assertEqual([(m.store, m.source, m.target, m.detour) for m in order], [
            ("x", "a", "c", True), ("y", "b", "a", False), ("x", "c", "b", False),
        ])  # fmt: skip
        self.assertEqual(order[0].free, {"a": 250, "b": 150, "c": 150})
        self.assertIsNone(ordered_moves(stores, volumes[:2], {"x": "b", "y": "a"}))

    def test_a_search_that_would_take_for_ever_ends(self) -> None:
        volumes = [Volume(f"v{n}", f"/v{n}", capacity=1000, free=150, system=False, attached=True) for n in range(16)]
        stores = [PlacedStore(f"s{n}", "renders", 60, 60, f"v{n}") for n in range(12)]
        on = {f"s{n}": f"v{(n + 1) % 12}" for n in range(12)}
        self.assertIsNone(ordered_moves(stores, volumes, on))

    def test_an_empty_store_goes_anywhere(self) -> None:
        full = Volume("v3", "/full", capacity=1000, free=0, system=False, attached=True)
        self.assertEqual(
            len(ordered_moves([PlacedStore("x", "scratch", 0, 0, "v0")], [*ALL, full], {"x": "v3"}) or ()), 1
        )

    def test_nothing_to_move_is_no_move(self) -> None:
        self.assertEqual(ordered_moves([PlacedStore("x", "renders", 1, 1, "v0")], ALL, {"x": "v0"}), [])

    @settings(max_examples=250, deadline=None)
    @given(STORES, VOLUMES)
    def test_every_step_has_room_and_an_order_is_found_where_there_is_one(
        self, stores: list[PlacedStore], volumes: list[Volume]
    ) -> None:
        made = place(stores, volumes)
        if made.impossible:
            return
        order = ordered_moves(stores, volumes, made.volumes)
        if order is None:
            self.assertFalse(any(_works(turns, volumes, made) for turns in permutations(_moving(stores, made))))
            return
        free: dict[str | None, int] = {volume.id: room_of(volume) for volume in volumes}
        spare = {volume.id: (volume.free or 0) - room_of(volume) for volume in volumes}
        at = {each.name: each.volume for each in stores}
        for move in order:
            self.assertEqual((at[move.store], move.size <= max(0, free[move.target])), (move.source, True))
            free[move.target] -= move.size
            if move.source in free:
                free[move.source] += move.size
            at[move.store] = move.target
            self.assertEqual(move.free, {volume.id: free[volume.id] + spare[volume.id] for volume in volumes})
        self.assertEqual(at, made.volumes)


def _moving(stores: Sequence[PlacedStore], made: Placement) -> list[PlacedStore]:
    return [each for each in stores if made.volumes[each.name] != each.volume]


def _works(order: Sequence[PlacedStore], volumes: Sequence[Volume], made: Placement) -> bool:
    free: dict[str | None, int] = {volume.id: room_of(volume) for volume in volumes}
    for each in order:
        if each.size > max(0, free[made.volumes[each.name]]):
            return False
        free[made.volumes[each.name]] -= each.size
        free[each.volume] = free.get(each.volume, 0) + each.size
    return True


class Wanted(TestCase):
    """Stores as a file names them."""

    SURVEY = parse_survey((EXAMPLES / "pan-03.survey.json").read_bytes(), "pan-03")

    def test_what_the_file_does_not_say_is_as_the_survey_has_it(self) -> None:
        text = '[[store]]\npurpose = "source_cache"\napp = "corrow"\nneed = "200 GB"\n[[store]]\npurpose = "exports"\n'
        cache, exports = read_stores(text, "stores.toml", self.SURVEY)
        self.assertEqual((cache.size, cache.need, cache.volume), (88 * 10**9, 200 * 10**9, "v0"))
        self.assertEqual((exports.size, exports.need, exports.volume), (0, 0, None))
        (known,) = stores_of(self.SURVEY)
        self.assertEqual((known.name, known.need), ("Corrow source_cache", 88 * 10**9))

    def test_every_fault_is_told_with_its_line(self) -> None:
        cases = [
            ('[[store]]\npurpose = "attic"\n', "stores.toml:1", "unknown purpose"),
            ('[[store]]\npurpose = "exports"\n' * 2, "stores.toml:3", "stands twice"),
            ('[[store]]\npurpose = "exports"\nonly = ["v9"]\n', "stores.toml:1", "no volume 'v9'"),
            ('[[store]]\npurpose = "exports"\nneed = "much"\n', "stores.toml:1", "need: "),
            ('[[store]]\npurpose = "exports"\nsize = -1\n', "stores.toml:1", "less than nothing"),
            ("[[store]]\n", "stores.toml", "purpose"),
            ("[[store]\n", "stores.toml:1", "TOML"),
            ("", "stores.toml", "store"),
        ]
        for text, where, words in cases:
            with self.subTest(words), self.assertRaisesRegex(DocumentError, words) as caught:
                read_stores(text, "stores.toml", self.SURVEY)
            self.assertIn(where, str(caught.exception))
