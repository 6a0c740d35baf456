"""Tables of single writes: what a file says, what is written, which bytes it has then."""

import json
from fractions import Fraction
from unittest import TestCase

from normant_core.base.errors import FileError, NormantError
from normant_core.base.quantities import Value
from normant_core.base.toml_places import Places, written
from normant_core.dialects.dialect import Binding
from normant_core.dialects.native import decode, encode, settle
from normant_core.formats.json_file import JsonFile
from normant_core.formats.xml_file import XmlFile

# file, address, value as read, new value, file afterwards
XML = [
    ("<a><b>1</b></a>", "/a/b", "1", "2", "<a><b>2</b></a>"),
    ("<a><b> 1\n</b></a>", "/a/b", "1", "2", "<a><b> 2\n</b></a>"),
    ("<a><b/></a>", "/a/b", "", "x", "<a><b>x</b></a>"),
    ("<a><b k='v' /></a>", "/a/b", "", "x", "<a><b k='v' >x</b></a>"),
    ("<a><b></b></a>", "/a/b", "", "x", "<a><b>x</b></a>"),
    ("<a><b>1</b><b>2</b></a>", "/a/b[2]", "2", "3", "<a><b>1</b><b>3</b></a>"),
    ("<a k='1' l=\"2\"/>", "/a/@k", "1", "it's", "<a k='it&apos;s' l=\"2\"/>"),
    ("<a k='1' l=\"2\"/>", "/a/@l", "2", 'say "so"', "<a k='1' l=\"say &quot;so&quot;\"/>"),
    ("<a>x &lt; y &#38; &#x7A;</a>", "/a", "x < y & z", "a<b&c", "<a>a&lt;b&amp;c</a>"),
    ("<a><![CDATA[1 < 2]]></a>", "/a", "1 < 2", "3 > 2", "<a><![CDATA[3 > 2]]></a>"),
    (
        "<?xml version='1.0'?>\r\n<!-- c --><a>1</a>\r\n",
        "/a",
        "1",
        "2",
        "<?xml version='1.0'?>\r\n<!-- c --><a>2</a>\r\n",
    ),
    ("<n:a xmlns:n='u'><n:b>1</n:b></n:a>", "/n:a/n:b", "1", "2", "<n:a xmlns:n='u'><n:b>2</n:b></n:a>"),
    ("<a>1</a>", "/a", "1", " 2 ", "<a>&#32;2&#32;</a>"),
]
JSON = [
    ('{"a": 1}', "/a", "1", "2", '{"a": 2}'),
    ('{"a": "x"}', "/a", "x", 'say "so"', '{"a": "say \\"so\\""}'),
    ('{"a": "1"}', "/a", "1", "2", '{"a": "2"}'),
    ('{"a": true}', "/a", "true", "false", '{"a": false}'),
    ('{"a": null}', "/a", "null", "5", '{"a": 5}'),
    ('{"a": [1, {"b": 2}]}', "/a/1/b", "2", "3", '{"a": [1, {"b": 3}]}'),
    ('{"a/b": {"c~d": 1}}', "/a~1b/c~0d", "1", "2", '{"a/b": {"c~d": 2}}'),
    ('{"a":1,"a":2}', "/a", "2", "3", '{"a":1,"a":3}'),
    ('{"a"\t:\r\n1 }\n', "/a", "1", "2", '{"a"\t:\r\n2 }\n'),
    ('"only"', "", "only", "new", '"new"'),
    ('{"\\u00e9": "\\u00e9"}', "/é", "é", "ü", '{"\\u00e9": "\\u00fc"}'),
]


class Single(TestCase):
    def test_xml(self) -> None:
        for text, at, value, new, after in XML:
            with self.subTest(text):
                file = XmlFile(text.encode())
                self.assertEqual(file.get(at).raw, value)
                changed = file.replace(at, new)
                self.assertEqual(changed.decode(), after)
                self.assertEqual(XmlFile(changed).get(at).raw, new)

    def test_json(self) -> None:
        for text, at, value, new, after in JSON:
            with self.subTest(text):
                file = JsonFile(text.encode())
                self.assertEqual(file.get(at).raw, value)
                changed = file.replace(at, new)
                self.assertEqual(changed.decode(), after)
                json.loads(changed)

    def test_what_a_place_cannot_hold_is_refused(self) -> None:
        for file, at, new in (
            (XmlFile(b"<a>1</a>"), "/a", "\x01"),
            (XmlFile(b"<a><![CDATA[1]]></a>"), "/a", "]]>"),
            (XmlFile(b"<a><b>1</b></a>"), "/a", "1"),
            (JsonFile(b'{"a": 1}'), "/a", "1 2"),
            (JsonFile(b'{"a": true}'), "/a", "yes"),
            (JsonFile(b'{"a": {}}'), "/a", "1"),
        ):
            with self.subTest(f"{at} {new!r}"), self.assertRaises(FileError):
                file.replace(at, new)


# binding, native text, value, native text of that value again
BOUND: list[tuple[Binding, str, Value, str]] = [
    (Binding("memory.held_back", "/a", unit="MiB"), "1536", 1536 * 2**20, "1536"),
    (Binding("memory.held_back", "/a", unit="GiB"), "1.5", 1536 * 2**20, "2"),
    (Binding("store.source_cache.quota", "/a", unit="GB", empty="none"), "", float("inf"), ""),
    (Binding("memory.preview_pool", "/a", unit="MiB", empty="1 GiB"), "", 2**30, "1024"),
    (Binding("safety.autosave_every", "/a", unit="min"), "8", 480, "8"),
    (Binding("playback.scale", "/a"), "1/2", Fraction(1, 2), "1/2"),
    (Binding("playback.scale", "/a", unit="%"), "25", Fraction(1, 4), "25"),
    (Binding("playback.waveforms", "/a"), "TRUE", True, "true"),
    (Binding("playback.waveforms", "/a", values={"hide": False, "show": True}), "hide", False, "hide"),
    (Binding("engine.effects", "/a", values={"software": "cpu"}), "software", "cpu", "software"),
    (Binding("driver.version", "/a"), "31.4.2", "31.4.2", "31.4.2"),
]


class Bindings(TestCase):
    def test_native_text_becomes_a_value_and_native_text_again(self) -> None:
        for binding, native, value, again in BOUND:
            with self.subTest(f"{binding.setting} {native!r}"):
                self.assertEqual(decode(binding, native), value)
                self.assertEqual(encode(binding, value), again)

    def test_text_that_means_nothing_is_refused(self) -> None:
        for binding, native in (
            (Binding("memory.held_back", "/a", unit="MiB"), "lots"),
            (Binding("memory.held_back", "/a", unit="MiB"), "-1"),
            (Binding("memory.held_back", "/a", unit="MiB"), ""),
            (Binding("playback.waveforms", "/a"), "1"),
            (Binding("playback.scale", "/a"), "1/0"),
            (Binding("engine.effects", "/a", values={"software": "cpu"}), "Software"),
        ):
            with self.subTest(native), self.assertRaises(NormantError):
                decode(binding, native)

    def test_no_limit_needs_a_word_for_it(self) -> None:
        with self.assertRaisesRegex(FileError, "no way to say"):
            encode(Binding("store.source_cache.quota", "/a", unit="GB"), float("inf"))

    def test_rounding_stays_on_the_side_of_the_norm(self) -> None:
        whole = Binding("memory.held_back", "/a", unit="GiB")
        wanted = 6 * 2**30 + 1
        self.assertEqual([settle(whole, wanted, way)[0] for way in ("up", "down", "nearest")], ["7", "6", "6"])


class TomlPlaces(TestCase):
    def test_every_value_has_its_line_and_column(self) -> None:
        text = 'a = 1\n[t]\n"b c" = [1,\n  2]\nd = { e = "x" }\n[[r]]\n[[r]]\n  f.g = 3\n'
        places = Places(text)
        for path, place in (
            (("a",), (1, 5)),
            (("t", "b c", 1), (4, 3)),
            (("t", "d", "e"), (5, 11)),
            (("r", 1), (7, 1)),
            (("r", 1, "f", "g"), (8, 9)),
            (("r", 1, "nothing", "there"), (7, 1)),
        ):
            with self.subTest(written(path)):
                self.assertEqual(places.of(path), place)

    def test_paths_are_written_as_people_write_them(self) -> None:
        self.assertEqual(written(("layer", 0, "rule", 2, "setting")), "layer[0].rule[2].setting")
