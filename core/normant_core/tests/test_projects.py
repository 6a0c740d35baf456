"""Projects: read by what a dialect tells of them, and what is wrong with their media."""

import io
import json
from typing import Any
from unittest import TestCase

from normant_core.base.errors import DocumentError
from normant_core.care import project_file
from normant_core.care.project_file import ProjectAddresses, ReadProject, read_project
from normant_core.care.projects import CheckedProject, MediaFile, check_project
from normant_core.dialects.dialect import parse_dialect

XML = ProjectAddresses(
    files="*.crw",
    format="xml",
    item="/project/media/item",
    id="@id",
    path="file/@at",
    uses=("/project/cut/clip/@media", "/project/cut/still"),
    rate="picture/@rate",
    size="picture/@size",
    own_rate="/project/@rate",
    own_size="/project/frame",
    version="/project/@saved",
)
JSON = ProjectAddresses(
    files="*.json", format="json", item="/media/*", id="id", path="file/path", uses=("/cuts/*/clips/*/media",),
    rate="rate", own_rate="/rate",
)  # fmt: skip


def document(items: str, clips: str = "") -> bytes:
    return (
        f'<?xml version="1.0"?><project saved="8.3" rate="25"><frame>3840 x 2160</frame><media>{items}</media>'
        f"<cut>{clips}</cut></project>"
    ).encode()


def item(id_: str, path: str, rate: str = "25", size: str = "3840x2160") -> str:
    return f'<item id="{id_}"><file at="{path}"/><picture rate="{rate}" size="{size}"/></item>'


def read_xml(content: bytes, at: ProjectAddresses = XML) -> ReadProject:
    return read_project(io.BytesIO(content), "x.crw", at)


class Reads(TestCase):
    def test_xml_with_its_items_uses_and_what_it_is_itself(self) -> None:
        project = read_xml(
            document(item("a", "/m/a.mov") + item("b", "/m/b.mov", "50"), '<clip media="a"/><still>b</still>')
        )
        self.assertEqual(
            [(i.id, i.path, i.rate) for i in project.items], [("a", "/m/a.mov", "25"), ("b", "/m/b.mov", "50")]
        )
        self.assertEqual(
            (project.uses, project.rate, project.size, project.version), ({"a", "b"}, "25", "3840 x 2160", "8.3")
        )

    def test_a_namespace_is_no_hindrance(self) -> None:
        content = document(item("a", "/m/a.mov")).replace(b"<project ", b'<project xmlns="urn:made-up" ')
        self.assertEqual(read_xml(content).items[0].id, "a")

    def test_json_and_open_timelines(self) -> None:
        body: dict[str, Any] = {
            "rate": 25,
            "media": [{"id": 1, "file": {"path": "a"}, "rate": 24}, {"id": 2, "file": {}}],
        }
        body["cuts"] = {"one": {"clips": [{"media": 1}, {"media": None}]}}
        project = read_project(io.BytesIO(json.dumps(body).encode()), "x.json", JSON)
        self.assertEqual([(i.id, i.path) for i in project.items], [("1", "a"), ("2", "")])
        self.assertEqual((project.uses, project.rate), ({"1"}, "25"))

    def test_what_is_damaged_or_no_project_says_where(self) -> None:
        for content, words in (
            (document(item("a", "/m/a"))[:-20], "damaged XML"),
            (b"", "damaged XML"),
            (b"\x00\x01", "damaged XML"),
            (document(""), "no media item is where the dialect says"),
            (b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "b">]><project>&a;</project>', "no project"),
            (b"<a>" * 300, "within one another"),
        ):
            with self.subTest(words), self.assertRaisesRegex(DocumentError, words):
                read_xml(content)
        for text in (b'{"media": [', b"[" * 100_000, b"\xff", b"{}"):
            with self.subTest(text[:5]), self.assertRaises(DocumentError):
                read_project(io.BytesIO(text), "x.json", JSON)

    def test_more_than_anybody_has_is_refused(self) -> None:
        before, project_file.MOST_ITEMS = project_file.MOST_ITEMS, 3
        self.addCleanup(setattr, project_file, "MOST_ITEMS", before)
        with self.assertRaisesRegex(DocumentError, "more than 3 media items"):
            read_xml(document("".join(item(str(n), "x") for n in range(4))))


class Checks(TestCase):
    def check(self, items: str, clips: str, **files: MediaFile) -> CheckedProject:
        return check_project(read_xml(document(items, clips)), lambda path: files.get(path.rpartition("/")[2]))

    def troubles(self, checked: CheckedProject) -> list[tuple[str, tuple[str, ...]]]:
        return [(trouble.trouble, trouble.items) for trouble in checked.troubles]

    def test_nothing_is_wrong(self) -> None:
        checked = self.check(item("a", "/m/a"), '<clip media="a"/>', a=MediaFile(7, (1, 1)))
        self.assertEqual((checked.troubles, checked.size, checked.unused, checked.used), ([], 7, 0, 1))

    def test_eleven_duplicates_four_missing_and_media_on_a_system_disk(self) -> None:
        files = {f"m{n}": MediaFile(10, (1, n), system=n == 0) for n in range(20)}
        items = "".join(item(f"i{n}", f"/m/m{n}") for n in range(20)) + "".join(
            item(f"d{n}", f"/m/m{n}") for n in range(11)
        )
        items += "".join(item(f"x{n}", f"/m/x{n}") for n in range(4))
        clips = "".join(f'<clip media="i{n}"/>' for n in range(20)) + '<clip media="x0"/>'
        checked = self.check(items, clips, **files)
        self.assertEqual((checked.duplicates, checked.missing, checked.items), (11, 4, 35))
        self.assertEqual((checked.size, checked.unused), (200, 0))  # the file of a duplicate is used
        misplaced = [t for t in checked.troubles if t.trouble == "misplaced"]
        self.assertEqual(
            [(t.items, t.why) for t in misplaced],
            [(("i0",), "it is on the system's disk"), (("d0",), "it is on the system's disk")],
        )
        missing = [t.why for t in checked.troubles if t.trouble == "missing"]
        self.assertEqual(
            missing[:2], ["the file does not exist; a timeline uses it", "the file does not exist; no timeline uses it"]
        )

    def test_two_paths_that_lead_to_one_file_are_duplicates_too(self) -> None:
        file = MediaFile(5, (1, 9))
        checked = self.check(item("a", "/m/a") + item("b", "/link/b"), '<clip media="a"/>', a=file, b=file)
        self.assertIn(("duplicate", ("a", "b")), self.troubles(checked))
        self.assertEqual(checked.size, 5)

    def test_bytes_that_only_unused_items_hold(self) -> None:
        files = {"a": MediaFile(5, (1, 1)), "b": MediaFile(8, (1, 2), removable=True, inside=False)}
        checked = self.check(item("a", "/m/a") + item("b", "/m/b"), '<clip media="a"/>', **files)
        self.assertEqual((checked.size, checked.unused), (13, 8))
        why = next(t.why for t in checked.troubles if t.trouble == "misplaced")
        self.assertEqual(why, "it is on a removable disk and outside the production's storage")

    def test_rates_and_sizes_unlike_the_projects(self) -> None:
        items = item("a", "/m/a") + item("b", "/m/b", "24000/1001", "1920x1080") + item("c", "/m/c", "50")
        files = {name: MediaFile(1, (1, n)) for n, name in enumerate("abc")}
        checked = self.check(items, '<clip media="a"/><clip media="b"/>', **files)
        whys = {t.trouble: t.why for t in checked.troubles}
        self.assertEqual(
            whys["odd"], "it is 24000/1001 frames per second in a project of 25 and 1920x1080 in a project of 3840x2160"
        )
        self.assertEqual(whys["mixed"], "timelines mix frame rates: 1 item at 25 and 1 item at 24000/1001")
        self.assertNotIn(("odd", ("c",)), self.troubles(checked))


class Dialects(TestCase):
    TEXT = 'format = "normant-dialect/1"\napp = "corrow"\nversions = ">=8"\nfile = []\n[[project]]\n'

    def test_addresses_are_told_apart(self) -> None:
        good = 'files = "*.crw"\nformat = "xml"\nitem = "/a/b"\nid = "@id"\npath = "@p"\nuses = ["/c/@m"]\n'
        self.assertEqual(parse_dialect(self.TEXT + good).project[0].item, "/a/b")
        for old, new, line in (
            ('"/a/b"', '"a/b"', 8),
            ('"@id"', '"/id"', 9),
            ('"@p"', '""', 10),
            ('"/c/@m"', '"c"', 11),
        ):
            with self.subTest(new), self.assertRaises(DocumentError) as caught:
                parse_dialect(self.TEXT + good.replace(old, new))
            self.assertEqual(caught.exception.faults[0].line, line)
        with self.assertRaises(DocumentError):
            parse_dialect(self.TEXT + good.replace('"xml"', '"docx"'))
