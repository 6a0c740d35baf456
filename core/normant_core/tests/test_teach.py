from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import DocumentError, FileError
from normant_core.dialects.dialect import parse_dialect
from normant_core.dialects.edit import add_binding, written
from normant_core.dialects.lessons import Sample, ToggledValue, candidates, difference, learn
from normant_core.dialects.native import decode

INI = b"[Play]\r\nSharePct=40\r\nHideWaves=1\r\n[Window]\r\nx=40\r\n[App]\r\nStarts=7\r\nLastOpened=/a.p\r\nSavedAt=1795640000\r\nTick=5\r\n"
HEAD = 'format = "normant-dialect/1"\napp = "pockle"\nversions = ">=3"\n\n[[file]]\nname = "p"\npath = "p.ini"\nformat = "ini"\n\n'


def after(*changes: tuple[bytes, bytes]) -> dict[str, bytes]:
    raw = INI
    for old, new in changes:
        raw = raw.replace(old, new)
    return {"p.ini": raw}


class WhatChanged(TestCase):
    def test_only_what_was_toggled_is_left(self) -> None:
        noisy = after(
            (b"HideWaves=1", b"HideWaves=0"),
            (b"x=40", b"x=44"),
            (b"Starts=7", b"Starts=8"),
            (b"/a.p", b"/b.p"),
            (b"1795640000", b"1795640999"),
        )
        result = difference({"p.ini": INI}, noisy)
        self.assertEqual(result.changed, (ToggledValue("p.ini", "/Play/HideWaves", "ini", "1", "0"),))
        self.assertEqual(
            {n.at: n.why for n in result.noise},
            {
                "/Window/x": "window place",
                "/App/Starts": "counter",
                "/App/LastOpened": "recent files",
                "/App/SavedAt": "time stamp",
            },
        )

    def test_an_idle_snapshot_teaches_what_moves_by_itself(self) -> None:
        toggled = after((b"SharePct=40", b"SharePct=60"), (b"Tick=5", b"Tick=9"))
        self.assertEqual(len(difference({"p.ini": INI}, toggled).changed), 2)
        result = difference({"p.ini": INI}, toggled, [after((b"Tick=5", b"Tick=6"))])
        self.assertEqual([c.at for c in result.changed], ["/Play/SharePct"])

    def test_a_file_that_cannot_be_read_is_told(self) -> None:
        self.assertEqual(difference({"p.json": b"{"}, {"p.json": b"{"}).unread[0][0], "p.json")

    def test_a_key_that_appears_is_a_change(self) -> None:
        self.assertEqual(
            difference({"q.yml": b"a: 1\n"}, {"q.yml": b"a: 1\non_fault: go-on\n"}).changed[0].before, None
        )


class IntoTheDialect(TestCase):
    def test_a_binding_is_added_behind_those_of_its_file(self) -> None:
        text = (
            HEAD.replace("p.ini", "p/{version.major}/p.ini")
            + '# the last of p\n\n[[file]]\nname = "q"\npath = "q.yml"\nformat = "yaml"\nbinding = []\n'
        )
        learnt = learn("engine.workers", "/Jobs", [Sample("2", "2"), Sample("3", "3")]).binding
        for file, place in (("p/3/p.ini", 0), ("q.yml", 1), ("new.json", 2)):
            with self.subTest(file):
                then = add_binding(
                    text.replace("binding = []\n", ""),
                    ToggledValue(file, "/Jobs", "json", "2", "3"),
                    learnt,
                    app="pockle",
                )
                whole = then.replace('format = "ini"\n\n#', 'format = "ini"\nbinding = []\n\n#') if place else then
                whole = whole.replace('format = "yaml"\n', 'format = "yaml"\nbinding = []\n') if place != 1 else whole
                bound = [[b.setting for b in f.binding] for f in parse_dialect(whole).file]
                self.assertEqual(bound[place], ["engine.workers"])
                self.assertIn("# the last of p", then)

    def test_what_only_looks_like_a_part_is_none_and_a_list_in_one_line_is_written_out(self) -> None:
        text = (
            "format = 'normant-dialect/1'  # ours\napp = \"pockle\"\nversions = '>=3'\n\n"
            '[[file]]\nname = "one # two"\npath = \'p/x.ini\'\nformat = "ini"\n'
            'binding = [{ setting = "power.profile", at = "/Power" }]  # by hand\n'
        )
        learnt = learn("playback.waveforms", "/Play/HideWaves", [Sample("1", "false"), Sample("0", "true")]).binding
        whole = add_binding(text, ToggledValue("p/x.ini", "/Play", "ini", "1", "0"), learnt, app="pockle")
        dialect = parse_dialect(whole)
        self.assertEqual([b.setting for b in dialect.file[0].binding], ["power.profile", "playback.waveforms"])
        self.assertEqual(dialect.file[0].binding[1], learnt)
        self.assertIn("# ours", whole)
        twice = add_binding(whole, ToggledValue("p/x.ini", "/Jobs", "ini", "2", "3"), learnt, app="pockle")
        self.assertTrue(twice.startswith(whole.rstrip()))

    def test_a_file_is_known_by_a_path_that_speaks_of_versions_however_many(self) -> None:
        binding = learn("memory.held_back", "/x", [Sample("1", "1 GiB"), Sample("2", "2 GiB")]).binding
        text = HEAD.replace("p.ini", "v{version.major}/p-{version}.ini")
        for file, count in {"v3/p-3.1.ini": 1, "v3/p-.ini": 2, "v3/3/p-3.1.ini": 2, "v3/p-3.1.ini.old": 2}.items():
            with self.subTest(file):
                whole = add_binding(text, ToggledValue(file, "/x", "ini", None, None), binding, app="pockle")
                self.assertEqual(whole.count("[[file]]"), count)
        # Tried share by share, forty braces in a row would not be done this year.
        endless = HEAD.replace("p.ini", "{version}" * 40 + "!")
        whole = add_binding(endless, ToggledValue("a" * 200, "/x", "ini", None, None), binding, app="pockle")
        self.assertEqual(whole.count("[[file]]"), 2)

    def test_what_is_no_toml_is_told_with_its_place(self) -> None:
        learnt = learn("engine.workers", "/Jobs", [Sample("2", "2"), Sample("3", "3")]).binding
        for text in ("app = ", "[[file", "a" * 300_000, "a = " + "[" * 5000):
            with self.subTest(text[:10]), self.assertRaises(DocumentError):
                add_binding(text, ToggledValue("x", "/Jobs", "ini", "2", "3"), learnt, app="pockle")

    def test_a_dialect_begins_with_its_first_binding(self) -> None:
        learnt = learn("engine.workers", "/Jobs", [Sample("2", "2"), Sample("3", "3")]).binding
        begun = parse_dialect(add_binding("", ToggledValue("x/y.ini", "/Jobs", "ini", "2", "3"), learnt, app="murk"))
        self.assertEqual((begun.app, begun.file[0].path, begun.file[0].binding[0].at), ("murk", "x/y.ini", "/Jobs"))


class WhichSetting(TestCase):
    def test_the_address_and_the_values_propose_it(self) -> None:
        cases = {
            ("/Play/HideWaves", "1", "0"): "playback.waveforms",
            ("/safety/autosave_min", "8", "30"): "safety.autosave_every",
            ("/memory/preview_mib", "256", "4096"): "memory.preview_pool",
            ("/folders/scratch", "/fast/t", "/slow/t"): "store.scratch.path",
            ("/hand_over/ignore_errors", "false", "true"): "delivery.ignore_errors",
        }
        for (at, before, now), setting in cases.items():
            with self.subTest(at):
                self.assertIn(setting, candidates(ToggledValue("f", at, "ini", before, now)))


class WhatItMeans(TestCase):
    def _learnt(self, setting: str, *samples: tuple[str | None, str]) -> tuple[object, ...]:
        lesson = learn(setting, "/x", [Sample(*sample) for sample in samples])
        return lesson.binding.unit, lesson.binding.values, lesson.binding.missing, lesson.sure

    def test_units_are_told_by_what_the_application_shows(self) -> None:
        self.assertEqual(
            self._learnt("memory.held_back", ("6554", "6.4 GiB"), ("2048", "2 GiB")), ("MiB", {}, None, True)
        )
        self.assertEqual(
            self._learnt("safety.autosave_every", ("300", "5 min"), ("600", "10 min")), ("s", {}, None, True)
        )
        self.assertEqual(self._learnt("playback.scale", ("50", "1/2"), ("25", "1/4")), ("%", {}, None, True))

    def test_one_sample_is_not_sure(self) -> None:
        self.assertFalse(self._learnt("memory.held_back", ("2048", "2 GiB"))[3])

    def test_inverted_switches_and_words_are_told(self) -> None:
        self.assertEqual(
            self._learnt("playback.waveforms", ("1", "off"), ("0", "on")), ("", {"1": False, "0": True}, None, True)
        )
        self.assertEqual(self._learnt("playback.waveforms", ("true", "on"), ("false", "off")), ("", {}, None, True))
        self.assertEqual(
            self._learnt("playback.keep", ("frames", "every-frame"), ("time", "real-time")),
            ("", {"frames": "every-frame", "time": "real-time"}, None, True),
        )
        self.assertFalse(self._learnt("playback.clip_pictures", ("off", "none"), ("all", "strip"))[3])

    def test_a_key_that_hides_is_told_by_what_is_shown_without_it(self) -> None:
        self.assertEqual(
            self._learnt("delivery.ignore_errors", (None, "off"), ("go-on", "on"))[1:3], ({"go-on": True}, False)
        )

    def test_what_explains_nothing_is_refused(self) -> None:
        for samples, words in (
            ([("10", "1 GiB"), ("20", "5 GiB")], "no unit"),
            ([("1", "1 GiB"), ("1", "2 GiB")], "several values"),
            ([("1", "lots")], "memory.held_back cannot be 'lots'"),
        ):
            with self.subTest(words), self.assertRaisesRegex(FileError, words):
                self._learnt("memory.held_back", *samples)

    @given(
        st.sampled_from([("MiB", 2**20), ("GiB", 2**30), ("MB", 10**6), ("GB", 10**9)]),
        st.lists(st.integers(2, 5000), min_size=2, max_size=4, unique=True),
    )
    def test_what_was_learnt_explains_every_sample(self, unit: tuple[str, int], numbers: list[int]) -> None:
        samples = [Sample(str(n), f"{n * unit[1]} B") for n in numbers]
        lesson = learn("memory.preview_pool", "/Play/Pool", samples)
        binding = parse_dialect(HEAD + written(lesson.binding)).file[0].binding[0]
        self.assertEqual([decode(binding, s.native or "") for s in samples], [n * unit[1] for n in numbers])
        self.assertEqual((binding.unit, lesson.sure), (unit[0], True))
