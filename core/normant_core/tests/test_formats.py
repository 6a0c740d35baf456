import json
from unittest import TestCase
from xml.sax.saxutils import escape, quoteattr

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import FileError
from normant_core.formats.ini_file import IniFile
from normant_core.formats.json_file import JsonFile
from normant_core.formats.span import Scalar
from normant_core.formats.xml_file import XmlFile

TEXT = st.text(st.characters(exclude_categories=["Cs", "Cc"], exclude_characters="\ufffe\uffff"), max_size=12)
NAMES = st.lists(st.from_regex(r"[a-z][a-z0-9_]{0,5}", fullmatch=True), min_size=1, max_size=4, unique=True)
BLANKS = st.sampled_from(["", " ", "\n  ", "\r\n\t"])
ENCODED = st.sampled_from([("utf-8", b""), ("utf-8", b"\xef\xbb\xbf"), ("utf-16-le", b"\xff\xfe")])

BOMB = b'<!DOCTYPE a [<!ENTITY x "xxxx"><!ENTITY y "&x;&x;">]><a>&y;</a>'
REFUSED = [
    (XmlFile, b"<a><b></a>", "line 1"),
    (XmlFile, BOMB, "entities"),
    (XmlFile, b"<a>" * 300 + b"</a>" * 300, "deeper"),
    (XmlFile, b"", "no element"),
    (JsonFile, b'{"a": 1,\n "b": }', "line 2"),
    (JsonFile, b"[" * 100_000, "cannot be read|deeper"),
    (XmlFile, b"<a>\xff</a>", "not utf-8|not well-formed"),
    (JsonFile, b" " * (8 * 1024 * 1024 + 1), "at most"),
]


class Refusals(TestCase):
    def test_files_that_cannot_be_trusted_are_refused_with_the_reason(self) -> None:
        for reader, raw, words in REFUSED:
            with self.subTest(raw[:20]), self.assertRaisesRegex(FileError, words):
                reader(raw)

    def test_an_error_tells_nothing_that_the_file_says(self) -> None:
        text = b"<a><token>hunter2</token></a>\nhunter3\n"  # as an INI file, each line is the name of a key
        for at in ("/a", "", "/hunter"):
            with self.subTest(at), self.assertRaises(FileError) as raised:
                IniFile(text).get(at)
            self.assertNotIn("hunter2", str(raised.exception))
            self.assertNotIn("hunter3", str(raised.exception))

    def test_an_exponent_with_its_sign_is_a_number(self) -> None:
        raw = b'{"a": 1e+2, "b": "1e+2", "c": [-2.5E+10]}'
        file = JsonFile(raw)
        self.assertEqual([entry.raw for entry in file.entries()], ["1e+2", "1e+2", "-2.5E+10"])
        self.assertEqual(file.write({"/b": Scalar("text", "x")}), raw.replace(b'"1e+2"', b'"x"'))

    def test_a_missing_address_is_told(self) -> None:
        with self.assertRaisesRegex(FileError, "there is no /a/c$"):
            XmlFile(b"<a><b>1</b></a>").get("/a/c")

    def test_a_value_of_another_kind_is_refused(self) -> None:
        with self.assertRaisesRegex(FileError, "holds a number"):
            JsonFile(b'{"a": 1}').replace("/a", "one")

    def test_text_that_the_encoding_cannot_hold_is_refused(self) -> None:
        latin = '<?xml version="1.0" encoding="ISO-8859-1"?><a>é</a>'.encode("latin-1")
        with self.assertRaisesRegex(FileError, "cannot hold"):
            XmlFile(latin).replace("/a", "\u4e00")


class Laws(TestCase):
    @given(NAMES, st.data(), ENCODED, BLANKS)
    def test_xml_changes_only_the_bytes_of_the_value(
        self, names: list[str], data: st.DataObject, encoded: tuple[str, bytes], blank: str
    ) -> None:
        olds = [data.draw(TEXT) for _ in names]
        body = "".join(
            f"{blank}<!-- c --><{n} k={quoteattr(old)}>{blank}{escape(old)}{blank}</{n}>"
            for n, old in zip(names, olds, strict=True)
        )
        self._lawful(XmlFile, f"<r>{body}</r>{blank}", encoded, data)

    @given(NAMES, st.data(), ENCODED, BLANKS)
    def test_json_changes_only_the_bytes_of_the_value(
        self, names: list[str], data: st.DataObject, encoded: tuple[str, bytes], blank: str
    ) -> None:
        pairs = f",{blank}".join(f"{json.dumps(n)}{blank}:{blank}{json.dumps(data.draw(TEXT))}" for n in names)
        self._lawful(JsonFile, "{" + blank + pairs + blank + "}" + blank, encoded, data)

    def _lawful(
        self, reader: type[XmlFile] | type[JsonFile], text: str, encoded: tuple[str, bytes], data: st.DataObject
    ) -> None:
        encoding, mark = encoded
        raw = mark + text.encode(encoding)
        file = reader(raw)
        entry = data.draw(st.sampled_from(file.entries()))
        new = data.draw(TEXT)
        changed = reader(file.replace(entry.at, new))
        self.assertEqual(changed.get(entry.at).raw, new)
        others = [(e.at, e.raw) for e in file.entries() if e.at != entry.at]
        self.assertEqual([(e.at, e.raw) for e in changed.entries() if e.at != entry.at], others)
        prefix = text.encode()[: entry.start].decode().encode(encoding)
        suffix = text.encode()[entry.end :].decode().encode(encoding)
        written = file.replace(entry.at, new)
        self.assertTrue(written.startswith(mark + prefix) and written.endswith(suffix))
        again = changed.replace(entry.at, entry.raw)
        self.assertEqual(reader(again).get(entry.at).raw, entry.raw)

    def test_a_plain_value_written_back_gives_the_same_file(self) -> None:
        raw = b"<a>\r\n  <b x='1'> 2 </b>\r\n  <c/>\r\n</a>\r\n"
        for at, value in (("/a/b", "2"), ("/a/b/@x", "1")):
            self.assertEqual(XmlFile(XmlFile(raw).replace(at, "9")).replace(at, value), raw)
