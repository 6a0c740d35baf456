import math
from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.quantities import Value
from normant_core.catalogue.settings import Kind, Setting, ValueFault, catalogue

KNOWN = catalogue()
VALUES: dict[Kind, st.SearchStrategy[Value]] = {
    Kind.BYTES: st.integers(0, 2**50),
    Kind.SECONDS: st.integers(0, 10**7),
    Kind.INT: st.integers(0, 10**6),
    Kind.FRACTION: st.fractions(0, 1, max_denominator=64),
    Kind.RATE: st.sampled_from([Fraction(24000, 1001), 25, 50]),
    Kind.BOOL: st.booleans(),
    Kind.TEXT: st.text(max_size=20),
    Kind.PATH: st.sampled_from(["/fast/c", "C:\\cache", ""]),
    Kind.VERSION: st.sampled_from(["8.3.1", "9.0-rc1"]),
}
# Every key of the design's catalogue that names a setting by itself.
NAMED = [
    "engine.effects",
    "engine.effects_gpu",
    "engine.decode",
    "engine.encode",
    "engine.panels",
    "engine.renderer",
    "engine.system_preference",
    "engine.integrated_enabled",
    "engine.workers",
    "memory.held_back",
    "memory.app_ceiling",
    "memory.preview_pool",
    "memory.per_worker",
    "memory.reserved_cores",
    "memory.favour",
    "memory.keep_layer_results",
    "memory.flush_every",
    "store.frame_cache.enabled",
    "store.frame_cache.persistent",
    "power.profile",
    "power.sleep_after",
    "power.process_priority",
    "driver.version",
    "driver.branch",
    "driver.released",
    "driver.app.texture_filtering",
    "driver.app.trilinear",
    "driver.app.threaded",
    "driver.app.compute_gpus",
    "driver.app.drawing_gpu",
    "system.version",
    "app.version",
    "app.edition",
    "playback.scale",
    "playback.paused_scale",
    "playback.adaptive_floor",
    "playback.fine_filtering",
    "playback.keep",
    "playback.effects_bypassed",
    "playback.clip_pictures",
    "playback.waveforms",
    "playback.external_output",
    "playback.overlays",
    "playback.scopes_open",
    "playback.raw_scale",
    "playback.monitor_depth",
    "playback.resize_filter",
    "playback.field_blend",
    "playback.pixel_aspect",
    "playback.background_render",
    "playback.screen_refresh_on_render",
    "playback.proxies",
    "playback.proxy_size",
    "delivery.full_resize",
    "delivery.full_raw",
    "delivery.originals",
    "delivery.effects_on",
    "delivery.ignore_errors",
    "delivery.preset",
    "project.template",
    "project.engine",
    "project.frame_size",
    "project.frame_rate",
    "project.colour_space",
    "project.media_fit",
    "safety.autosave_every",
    "safety.autosave_keep",
    "safety.autosave_path",
    "audio.input",
    "audio.output",
    "audio.mute_input_while_recording",
]
STORES = ["source_cache", "frame_cache", "proxies", "renders", "backups", "scratch", "exports"]


def values_of(setting: Setting) -> st.SearchStrategy[Value]:
    if setting.kind is Kind.ENUM:
        return st.sampled_from(setting.values)
    return VALUES[setting.kind]


class Catalogue(TestCase):
    def test_it_holds_the_whole_design(self) -> None:
        parts = ("path", "quota", "max_age", "clear_on_close")
        wanted = {*NAMED, *(f"store.{store}.{part}" for store in STORES for part in parts)}
        self.assertEqual(wanted - set(KNOWN.settings), set())

    def test_every_setting_belongs_to_a_family_and_explains_itself(self) -> None:
        for setting in KNOWN.settings.values():
            with self.subTest(setting.key):
                self.assertIn(setting.family, KNOWN.families)
                self.assertTrue(setting.title and setting.help.endswith("."))

    def test_what_is_dangerous_or_needs_hands_is_said(self) -> None:
        self.assertTrue(KNOWN["delivery.ignore_errors"].danger)
        self.assertIn("realtime", KNOWN["power.process_priority"].danger)
        self.assertFalse(KNOWN["engine.integrated_enabled"].remote)

    @given(st.data())
    def test_a_value_survives_json_and_comes_back_the_same(self, data: st.DataObject) -> None:
        setting = data.draw(st.sampled_from(list(KNOWN.settings.values())))
        value = data.draw(values_of(setting))
        parsed = setting.parse(setting.plain(setting.parse(value)))
        self.assertEqual((parsed, type(parsed) is bool), (value, isinstance(value, bool)))

    def test_no_limit_is_null_where_the_setting_knows_it(self) -> None:
        quota = KNOWN["store.source_cache.quota"]
        self.assertEqual((quota.parse(None), quota.plain(math.inf), quota.show(math.inf)), (math.inf, None, "no limit"))
        with self.assertRaises(ValueFault):
            KNOWN["memory.held_back"].parse(None)

    def test_values_that_a_setting_cannot_hold_are_refused_with_what_it_can(self) -> None:
        cases = [
            ("power.profile", "ludicrous", "performance"),
            ("playback.waveforms", "yes", "true or false"),
            ("playback.waveforms", 1, "true or false"),
            ("memory.held_back", True, "bytes"),
            ("memory.held_back", -1, "zero or more"),
            ("memory.held_back", float("nan"), "bytes"),
            ("memory.held_back", "1.0000000001 B", "whole number"),
            ("engine.workers", 1.5, "whole number"),
            ("engine.workers", 10**400, "a number"),
            ("memory.held_back", 10**400, "bytes"),
            ("memory.held_back", "9" * 30, "at most"),
            ("memory.held_back", float("inf"), "bytes"),
            ("driver.version", "latest", "version"),
            ("audio.input", 3, "text"),
        ]
        for key, value, expected in cases:
            with self.subTest(f"{key} {value}"), self.assertRaises(ValueFault) as caught:
                KNOWN[key].parse(value)
            self.assertIn(expected, caught.exception.expected)

    def test_an_open_enumeration_takes_a_makers_new_name(self) -> None:
        self.assertEqual(KNOWN["engine.effects"].parse("ostrane"), "ostrane")

    def test_units_of_bare_numbers_are_the_settings(self) -> None:
        self.assertEqual(KNOWN["safety.autosave_every"].parse("8"), 480)
        self.assertEqual(KNOWN["safety.autosave_every"].show(480), "8 min")
        self.assertEqual(KNOWN["store.source_cache.max_age"].parse("45 d"), 45 * 86400)

    def test_the_nearest_keys_are_named(self) -> None:
        self.assertEqual(KNOWN.nearest("memory.held_bak")[0], "memory.held_back")
        self.assertEqual(KNOWN.nearest("zzzz"), [])
