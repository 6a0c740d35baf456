from unittest import TestCase

from normant_core.base.errors import NormantError
from normant_core.seat.facts import Facts, Volume
from normant_core.seat.stores import fit_target, folder_of, has_room, is_clearable, is_own, is_store

FAST = Volume("v1", "/fast/", capacity=1000, free=300, attached=True, writable=True)


class Stores(TestCase):
    def test_a_store_has_one_folder_on_a_volume(self) -> None:
        self.assertEqual(folder_of("corrow", "store.source_cache.path", FAST), "/fast/corrow/source_cache")
        are_stores = [
            is_store(s) for s in ("store.proxies.path", "store.proxies.quota", "store.exports.path", "audio.input")
        ]
        self.assertEqual(are_stores, [True, False, False, False])

    def test_a_tenth_of_the_volume_stays_free(self) -> None:
        self.assertEqual(has_room(FAST, 200), "")
        self.assertEqual(has_room(FAST, 201), "201 bytes do not go on v1: 300 are free, of which 100 have to stay so")
        self.assertEqual(has_room(Volume("v2", "/x"), 10**15), "")

    def test_only_a_volume_that_is_there_takes_a_store(self) -> None:
        gone, locked = Volume("v2", "/a", attached=False), Volume("v3", "/b", writable=False)
        facts = Facts(volumes=(FAST, gone, locked))
        self.assertEqual(fit_target(facts, "v1"), FAST)
        for volume, why in (("v2", "not attached"), ("v3", "cannot be written"), ("v9", "has no volume v9")):
            with self.subTest(volume), self.assertRaisesRegex(NormantError, why):
                fit_target(facts, volume)

    def test_cleared_is_what_its_application_makes_again_in_a_folder_of_its_own(self) -> None:
        clearable = [
            is_clearable(f"store.{purpose}.path") for purpose in ("source_cache", "frame_cache", "backups", "x")
        ]
        self.assertEqual(clearable, [True, True, False, False])
        self.assertFalse(is_clearable("store.source_cache.quota"))
        for folder in ("/fast/corrow/source_cache", "D:\\Caches\\Corrow\\peaks", "/corrow"):
            self.assertTrue(is_own("corrow", folder), folder)
        for folder in ("/home/edit", "/corrow/..", "/fast/corrows", "", "C:\\"):
            self.assertFalse(is_own("corrow", folder), folder)
