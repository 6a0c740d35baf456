"""Teaching by example where files belong, and where a project lists its media."""

import json
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import DocumentError, FileError
from normant_core.care.belonging import Belonging
from normant_core.dialects.dialect import parse_dialect
from normant_core.dialects.edit import keep_project, keep_store
from normant_core.dialects.store_lessons import PathSample, learn_belonging, learn_project

PROJECT = b"""<project saved="8">
  <media><item id="m1" rate="25"><file at="/brine/a.mov"/></item><item id="m2" rate="25"><file at="/brine/b.mov"/></item>
  <item id="m3" rate="24"><file at="/brine/c.mov"/></item></media>
  <cut name="one"><clip media="m1"/><clip media="m3"/><clip media="m1"/></cut>
</project>"""
FILE = """
[[file]]
name = "p"
path = "corrow/p.xml"
format = "xml"
binding = []
"""
WORD = st.text("abcdefgh", min_size=1, max_size=6)


class Paths(TestCase):
    def test_folders_that_are_named_otherwise_than_people_do(self) -> None:
        learnt = learn_belonging([PathSample("salt_ledger/reel_03/a.mkv", "Salt Ledger", "Reel 03")])
        self.assertEqual(learnt.pattern, "^(?P<production>[^/]+)/(?P<project>[^/]+)/")
        self.assertTrue(learnt.sure)
        self.assertEqual(learnt.why, "the production is the first folder and the project is the second folder")
        self.assertEqual(Belonging(learnt.pattern).of("mill/one/deep/x.mkv"), ("mill", "one"))

    def test_paths_as_any_system_writes_them(self) -> None:
        for path in ("mill\\one\\a.mkv", "/mill/one/a.mkv", "mill//one/a.mkv"):
            with self.subTest(path):
                learnt = learn_belonging([PathSample(path, "Mill", "one")])
                self.assertEqual(learnt.pattern, "^(?P<production>[^/]+)/(?P<project>[^/]+)/")

    def test_words_of_a_files_name_whatever_folder_it_lies_in(self) -> None:
        learnt = learn_belonging(
            [
                PathSample("2026/saltledger_reel3_v2.mov", "Salt Ledger", "reel3"),
                PathSample("mill_one.mov", "Mill", "one"),
            ]
        )
        belongs = Belonging(learnt.pattern)
        self.assertEqual(belongs.of("a/b_c/oil_five_v9.mov"), ("oil", "five"))
        self.assertEqual(belongs.of("a_b/loose.mov"), ("", ""))

    def test_another_path_decides_between_two_places(self) -> None:
        twice = PathSample("mill/mill/a.mkv", "Mill")
        self.assertFalse(learn_belonging([twice]).sure)
        learnt = learn_belonging([twice, PathSample("old/oil/a.mkv", "Oil")])
        self.assertEqual((learnt.pattern, learnt.sure), ("^[^/]+/(?P<production>[^/]+)/", True))

    def test_what_no_pattern_tells_is_said(self) -> None:
        for samples, words in (
            ([], "say of every path"),
            ([PathSample("a/b.mkv")], "say of every path"),
            ([PathSample("a/b.mkv", "Mill")], "no folder, and no word of the file's name, is 'Mill'"),
            ([PathSample("mill/b.mkv", "Mill"), PathSample("a/mill/b.mkv", "Mill")], "in another place of each path"),
            ([PathSample("mill/b.mkv", "Mill", "Mill")], "in the same place"),
            ([PathSample("", "Mill")], "no folder"),
            ([PathSample("x/" * 100 + "mill/a.mkv", "Mill")], "too deep"),
            ([PathSample("__/a.mkv", "!!")], "say of every path"),
        ):
            with self.subTest(samples), self.assertRaisesRegex(FileError, words):
                learn_belonging(samples)

    @given(st.lists(WORD, min_size=2, max_size=4, unique=True), st.data())
    def test_what_was_learnt_explains_what_it_was_learnt_from(self, folders: list[str], data: st.DataObject) -> None:
        production, project = data.draw(st.permutations(folders))[:2]
        sample = PathSample("/".join([*folders, "x.mkv"]), production, project)
        self.assertEqual(Belonging(learn_belonging([sample]).pattern).of(sample.path), (production, project))


class Projects(TestCase):
    def test_in_xml(self) -> None:
        learnt = learn_project("lamps.corrow", PROJECT)
        at = learnt.addresses
        self.assertEqual((at.files, at.format, at.item), ("*.corrow", "xml", "/project/media/item"))
        self.assertEqual((at.id, at.path, at.uses), ("@id", "file/@at", ("/project/cut/clip/@media",)))
        self.assertEqual((learnt.sure, learnt.why), (True, "3 media items, 2 of them used"))

    def test_in_json(self) -> None:
        media = [{"key": n, "file": {"path": f"C:\\media\\{n}.mov"}} for n in range(4)]
        body = {"pool": media, "cuts": [{"clips": [{"of": 2}, {"of": 3}]}], "name": "x"}
        at = learn_project("x.json", json.dumps(body).encode()).addresses
        self.assertEqual((at.format, at.item, at.id, at.path), ("json", "/pool/*", "key", "file/path"))
        self.assertEqual(at.uses, ("/cuts/*/clips/*/of",))

    def test_what_is_no_project_is_said(self) -> None:
        deep = b"<a>" * 100 + b"</a>" * 100
        bomb = b'<!DOCTYPE a [<!ENTITY b "bbbb">]><a>&b;</a>'
        for content, words in (
            (b"", "neither XML nor JSON"), (b"<a", "neither XML nor JSON"), (b"[" * 9000, "neither XML nor JSON"),
            (bomb, "neither XML nor JSON"), (b"\xff\xfe\x00", "neither XML nor JSON"), (deep, "lie more than 60"),
            (b"[" * 70 + b"]" * 70, "lie more than 60"), (b"7", "no value looks like"), (b"<a/>", "no value looks like"),
            (PROJECT.replace(b"media=", b"of="), ""), (b'<a><i id="1" at="/x/y.mov"/></a>', "nothing elsewhere names"),
        ):  # fmt: skip
            with self.subTest(content[:30]):
                if words:
                    self.assertRaisesRegex(FileError, words, learn_project, "p.x", content)
                else:
                    self.assertEqual(learn_project("p.x", content).addresses.uses, ("/project/cut/clip/@of",))


class Texts(TestCase):
    def test_a_dialect_begins_with_what_was_learnt_and_comments_stay(self) -> None:
        learnt = learn_project("lamps.corrow", PROJECT).addresses
        text = keep_project(keep_store("", "renders", "^(?P<project>[^/]+)/", app="corrow"), learnt, app="corrow")
        commented = text.replace('uses = ["/project', '# where\nown_rate = "/project/@rate"\nuses = ["/project')
        again = keep_project(
            keep_store(commented, "renders", "^(?P<production>[^/]+)/", app="corrow"), learnt, app="corrow"
        )
        dialect = parse_dialect(again + FILE)
        (store,), (project,) = dialect.store, dialect.project
        self.assertEqual((store.setting, store.belongs), ("store.renders.path", "^(?P<production>[^/]+)/"))
        self.assertEqual((project.uses, project.own_rate), (learnt.uses, "/project/@rate"))
        self.assertIn("# where\n", again)

    def test_a_text_that_is_no_dialect_is_said(self) -> None:
        for text in ("store = 3\n", "[[store", "store = [1, 2]\n"):
            with self.subTest(text), self.assertRaises(DocumentError):
                keep_store(text, "renders", "^(?P<production>[^/]+)/", app="corrow")
