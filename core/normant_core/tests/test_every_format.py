"""Laws that hold for a file of any format: what is written is read, and nothing else moves by a byte."""

import plistlib
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import FileError
from normant_core.formats.kinds import READERS, read_file, recognised
from normant_core.formats.span import Scalar

INI = """; Pockle's own\r
first = 1\r
\r
[play]\r
draw=1/2\r
  Name : "quoted; text"   ; behind\r
flag\r
draw = 1/4\r
path = C:\\cache;D:\\more\r
long = one\r
   two\r
empty =\r
[Folders and/more]\r
\tcache = /fast/pockle # why\r
[play]\r
late=yes"""
PROPERTIES = """# made by hand
a.b = 1
! another
path\\ to : C:\\\\cache
goes = on \\
    and on
empty
last=caf\\u00e9\\n"""
TOML = """# Glaize
title = 'literal \\ text' # comment
n = 1_000
hex = 0x10
ratio = 0.50
when = 2026-03-03T07:12:09Z
dotted.inner."odd key" = true

[play] # behind
draw = "1/2"
steps = [ 1, 2,
  3, # three
]
inline = { a = 1, b = { c = "x" } }
text = \"\"\"
two
lines\"\"\"

[[layer]]
name = "one"
[[layer]]
name = "two"
  [layer.deep]
  x = 1
"""
YAML = """# Tamsel
draw: 1/2   # half
"quoted": 'it''s'
on: yes
nothing:
list:
- one
-  two: 2
   three: "é"
- [1, {a: b}, ]
anchored: &a 5
same: *a
text: |
  two
  lines

# how it folds
folded: >-
  one
  two
nested:
    deep:
        x: 1.5e+3
        y: !!str 5
"""
JSON = '{\n\t"a": "x",\n\t"b": {"c": [1, 2.50, null], "d": {}},\r\n\t"a": "é\\n",\n\t"t": true\n}\n'
JSONC = (
    '{\n  // how it plays\n  "draw": "1/2", // half\n  "list": [\n    1,\n    2, /* two */\n  ],\n  "u": "//no",\n}\n'
)
XML = """<?xml version="1.0"?>
<!-- Corrow -->
<settings a='1' b="x &amp; y">
  <play> half </play>
  <play>1</play>
  <empty/>
  <data><![CDATA[1 < 2]]></data>
  <said>5<!-- five --></said>
</settings>
"""
PLIST = """<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE plist PUBLIC "-//Example//DTD PLIST 1.0//EN" "http://example.invalid/plist.dtd">
<plist version="1.0">
<dict>
	<key>Decode</key>
	<true/>
	<key>Pool</key>
	<integer> 512 </integer>
	<key>Share</key> <real>0.5</real>
	<key>Name &amp; more</key>
	<string> spaced </string>
	<key>Items</key>
	<array>
		<string>one</string>
		<dict><key>x</key><date>2026-03-03T07:12:09Z</date></dict>
	</array>
	<key>Blob</key>
	<data>aGVsbG8=</data>
	<key>None</key>
	<dict/>
</dict>
</plist>
"""
TREE: dict[str, Any] = {
    "decode": True, "pool": 512, "share": 0.5, "name": "é", "again": 512, "items": ["one", {"x": 7, "y": "one"}],
    "blob": b"hello", "many": {f"k{i}": i for i in range(300)},
}  # fmt: skip
FILES = {
    "ini": INI, "properties": PROPERTIES, "toml": TOML, "yaml": YAML, "json": JSON, "jsonc": JSONC, "xml": XML,
    "plist": PLIST,
}  # fmt: skip
ENCODINGS = [
    ("utf-8", b""),
    ("utf-8", b"\xef\xbb\xbf"),
    ("utf-16-le", b"\xff\xfe"),
    ("utf-16-be", b"\xfe\xff"),
    ("latin-1", b""),
]
NEW = {
    "ini": ["/new", "/play/new", "/more/new"],
    "properties": ["/new", "/new key:x"],
    "toml": ["/new", "/play/new", "/play/inline/new", "/play/steps/3", "/dotted/new", "/layer/1/new", "/deep/er/new"],
    "yaml": ["/new", "/nested/deep/new", "/list/3", "/list/2/1/new", "/made/of/new"],
    "json": ["/new", "/b/c/3", "/b/d/new", "/made/of/new"],
    "jsonc": ["/new", "/list/2", "/made/of/new"],
    "xml": ["/settings/new", "/settings/@new", "/settings/play[3]", "/settings/empty/new", "/settings/made/of/new"],
    "plist": ["/new", "/Items/2", "/None/new", "/made/of/new", "/a & b"],
    "binary": ["/new", "/items/2", "/many/new", "/made/of/new"],
}
WORDS = st.sampled_from(
    ["", "1/2", "true", "no", "null", " lead", "trail ", "a: b", "a #b", "# c", "a ; b", "- x", '"', "'", "it's", "\\", "{x}",
     "5", "1e5", "<&>", "]]>", "=", "[x]", "é", "two\nlines", "/fast/cache", "C:\\new", "~", "*a", "key=value", "01"]
)  # fmt: skip
TEXTS = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)
SCALARS = st.one_of(
    WORDS.map(lambda word: Scalar("text", word)),
    TEXTS.map(lambda word: Scalar("text", word)),
    st.integers(-(2**62), 2**62).map(lambda n: Scalar("number", str(n))),
    st.decimals(-(10**6), 10**6, places=3).map(lambda n: Scalar("number", f"{n:f}")),
    st.booleans().map(lambda b: Scalar("bool", str(b).lower())),
)


def sample(name: str, encoding: str, mark: bytes) -> bytes:
    """The file of that format in that encoding."""
    if name == "binary":
        return plistlib.dumps(TREE, fmt=plistlib.FMT_BINARY)
    text = FILES[name]
    if name == "xml" and encoding != "utf-8":
        declared = {"latin-1": "ISO-8859-1"}.get(encoding, "UTF-16")
        text = text.replace('"1.0"?', f'"1.0" encoding="{declared}"?')
    if name == "plist":
        encoding, mark = "utf-8", mark if encoding == "utf-8" else b""
    return mark + text.encode(encoding)


def reader(name: str) -> str:
    """The reader's name."""
    return "plist" if name == "binary" else name


class EveryFormat(TestCase):
    @given(st.sampled_from(sorted(NEW)), st.sampled_from(ENCODINGS), st.data())
    def test_what_is_written_is_read_and_nothing_else_moves(
        self, name: str, encoded: tuple[str, bytes], data: st.DataObject
    ) -> None:
        raw, format = sample(name, *encoded), reader(name)
        file = read_file(raw, format)
        old = {entry.at: entry for entry in file.entries()}
        places = data.draw(st.lists(st.sampled_from([*old, *NEW[name]]), min_size=1, max_size=3, unique=True))
        changes = {at: data.draw(SCALARS) for at in places}
        try:
            written = file.write(changes)
        except FileError:
            return  # with a reason; what can be refused is told in the tables below
        now = {entry.at: entry for entry in read_file(written, format).entries()}
        for at, value in changes.items():
            text_only = name in ("ini", "properties", "xml")
            self.assertTrue((Scalar("text", value.raw) if text_only else value).same(now[at]), (at, value, now[at]))
        for at in old.keys() - changes.keys():
            if at in now:
                self.assertEqual(now[at].scalar, old[at].scalar)
        if all(at in old for at in changes) and name != "binary":
            self._outside_unchanged(raw, written, [file.spans()[at] for at in changes])
        back = read_file(written, format).write({at: old[at].scalar for at in changes if at in old})
        again = {entry.at: entry.scalar for entry in read_file(back, format).entries()}
        self.assertEqual([at for at in old if at in again and not again[at].same(old[at])], [])

    def _outside_unchanged(self, raw: bytes, written: bytes, spans: list[tuple[int, int]]) -> None:
        """What stands between the spans stands in the new file too, in the same order."""
        reached, place = 0, 0
        for start, end in [*sorted(spans), (len(raw), len(raw))]:
            piece = raw[reached:start]
            at = written.find(piece, place)
            self.assertGreaterEqual(at, place, piece)
            place, reached = at + len(piece), end

    @given(st.sampled_from(sorted(NEW)), st.data())
    def test_a_plain_value_written_back_gives_the_same_bytes(self, name: str, data: st.DataObject) -> None:
        raw, format = sample(name, "utf-8", b""), reader(name)
        file = read_file(raw, format)
        odd = {
            "/n",
            "/hex",
            "/folded",
            "/said",
            "/nested/deep/y",
            "/same",
            "/anchored",
            "/goes",
            "/play/long",
            "/play/flag",
        }
        odd |= {"/empty", "/settings/empty", "/when", "/nothing", "/quoted", "/on"}
        entry = data.draw(st.sampled_from([e for e in file.entries() if e.at not in odd and e.kind != "null"]))
        new = {"number": Scalar("number", "7"), "bool": Scalar("bool", "false")}.get(
            entry.kind, Scalar("text", "seven")
        )
        if entry.kind in ("date", "data"):
            return
        changed = read_file(file.write({entry.at: new}), format)
        self.assertEqual(changed.write({entry.at: entry.scalar}), raw, entry)

    @given(st.sampled_from(sorted(READERS)), st.binary(max_size=60))
    def test_any_bytes_are_read_or_refused_with_a_reason(self, name: str, raw: bytes) -> None:
        try:
            file = read_file(raw, name)
        except FileError as fault:
            self.assertTrue(str(fault))
        else:
            self.assertEqual(file.write({entry.at: entry.scalar for entry in file.entries()}), raw)

    @given(st.sampled_from(sorted(NEW)), st.data())
    def test_a_file_cut_or_torn_is_read_or_refused_with_a_reason(self, name: str, data: st.DataObject) -> None:
        raw = bytearray(sample(name, "utf-8", b""))
        for _ in range(data.draw(st.integers(0, 3))):
            raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
        cut = bytes(raw[: data.draw(st.integers(0, len(raw)))])
        try:
            file = read_file(cut, reader(name))
            self.assertEqual(file.write({entry.at: entry.scalar for entry in file.entries()}), cut)
        except FileError as fault:
            self.assertTrue(str(fault))

    def test_the_format_is_told_by_how_a_file_begins_and_ends(self) -> None:
        for name in NEW:
            ending = {"binary": "plist"}.get(name, name)
            expected = "plist" if name == "binary" else name
            with self.subTest(name):
                self.assertEqual(recognised(f"a.{ending}", sample(name, "utf-8", b"")), expected)
        self.assertEqual(recognised("a.json", JSONC.encode()), "jsonc")
        with self.assertRaisesRegex(FileError, "cannot be told"):
            recognised("notes.txt", b"hello")
