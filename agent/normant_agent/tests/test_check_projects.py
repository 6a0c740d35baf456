"""Projects read at a seat: in a process of its own, bounded, and nothing is written."""

import os
from unittest import TestCase
from unittest.mock import patch

from normant_agent.orders import check_projects
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders.kinds import CheckProjects, Receipt
from normant_core.orders.projects import MOST_OF_A_KIND, MOST_PROJECTS
from normant_core.seat.facts import Facts, Volume

from .bench import TEXT, Bench, order
from .test_cli_project import DIALECT as TOLD

BOUND = """

[[file.binding]]
setting = "store.projects.path"
at = "/settings/folders/projects"
kind = "path"
"""
FIRST, SECOND, *REST = TEXT.split("[[file]]")
PROJECT = "\n[[project]]" + TOLD.partition("[[project]]")[2]
DIALECT = parse_dialect("[[file]]".join((FIRST, SECOND + BOUND, *REST)) + PROJECT)
FOLDER = "/brine/corrow/projects"


class Projects(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.dialects = [DIALECT]
        self.bench.facts = Facts(volumes=(Volume("v0", "/", system=True), Volume("v1", "/brine")))
        text = f"<settings><folders><projects>{FOLDER}</projects></folders></settings>"
        self.bench.path.write_text(text, "utf-8")
        self.folder = self.bench.real(FOLDER)
        self.folder.mkdir(parents=True)

    def write(self, name: str, *paths: str, age: int = 0) -> None:
        items = "".join(f'<item id="{number}" at="{path}"/>' for number, path in enumerate(paths))
        path = self.folder / name
        path.write_text(f'<project saved="8.3"><media>{items}</media></project>', "utf-8")
        os.utime(path, (1e9 - age, 1e9 - age))

    def media(self, path: str, size: int = 100) -> None:
        real = self.bench.real(path)
        real.parent.mkdir(parents=True, exist_ok=True)
        real.write_bytes(bytes(size))

    def run_order(self, **how: str) -> Receipt:
        return self.bench.runner().run(order(CheckProjects("corrow", **how)))

    def test_the_media_of_each_are_looked_for_where_they_lie(self) -> None:
        self.media("/brine/media/a.mov")
        self.media("/desk/b.mov", 50)
        self.write("lamps.crw", "/brine/media/a.mov", "file:///brine/media/a.mov", "/desk/b.mov", "/brine/media/c.mov")
        before = (self.folder / "lamps.crw").read_bytes()
        receipt = self.run_order(storage="/brine/media")
        [project] = receipt.projects
        self.assertEqual((project.file, project.version, project.fault), ("lamps.crw", "8.3", ""))
        self.assertEqual((project.items, project.missing, project.duplicates, project.size), (4, 1, 1, 150))
        [misplaced] = [t for t in project.troubles if t.trouble == "misplaced"]
        self.assertEqual(misplaced.paths, ("/desk/b.mov",))
        self.assertIn("on the system's disk and outside the production's storage", misplaced.why)
        self.assertEqual((self.folder / "lamps.crw").read_bytes(), before)

    def test_one_that_is_damaged_says_so_and_keeps_no_other(self) -> None:
        self.write("good.crw", "/brine/media/c.mov")
        (self.folder / "bad.crw").write_text("<project><media>", "utf-8")
        (self.folder / "note.txt").write_text("no project", "utf-8")
        (self.folder / "out.crw").symlink_to(self.bench.path)
        seen = {project.file: project.fault for project in self.run_order().projects}
        self.assertEqual(set(seen), {"good.crw", "bad.crw"})
        self.assertEqual(seen["good.crw"], "")
        self.assertIn("damaged XML", seen["bad.crw"])

    def test_a_single_one_the_newest_and_what_is_told_is_bounded(self) -> None:
        for number in range(MOST_PROJECTS + 2):
            self.write(f"p{number}.crw", *(f"/gone/{n}.mov" for n in range(MOST_OF_A_KIND + 3)), age=number)
        projects = self.run_order(file="p3.crw").projects
        self.assertEqual([project.file for project in projects], ["p3.crw"])
        missing = [t for t in projects[0].troubles if t.trouble == "missing"]
        self.assertEqual((len(missing), projects[0].more), (MOST_OF_A_KIND, 6))  # three are unused as well
        with patch.object(check_projects, "_seen", side_effect=lambda *args: projects[0]) as seen:
            self.bench.runner().run(order(CheckProjects("corrow"), "a2"))
        self.assertEqual(seen.call_count, MOST_PROJECTS)
        self.assertEqual(seen.call_args_list[0].args[2].name, "p0.crw")

    def test_what_takes_too_long_is_ended(self) -> None:
        self.write("slow.crw", "/gone/a.mov")
        with patch.object(check_projects, "SECONDS", 0.01):
            [project] = self.run_order().projects
        self.assertIn("took too long", project.fault)

    def test_what_is_left_when_the_time_is_over_says_so(self) -> None:
        self.write("one.crw", "/gone/a.mov")
        with patch.object(check_projects, "TOGETHER", 0):
            [project] = self.run_order().projects
        self.assertIn("out of time", project.fault)

    def test_what_cannot_be_looked_into_is_refused(self) -> None:
        for spoil, words in (
            (lambda: None, "there is no project"),
            (
                lambda: setattr(self.bench, "dialects", [parse_dialect(TEXT)]),
                "the corrow dialect does not describe its projects",
            ),
            (lambda: self.bench.path.write_text("<settings/>", "utf-8"), "projects"),
        ):
            with self.subTest(words):
                self.setUp()
                spoil()
                receipt = self.run_order()
                self.assertEqual((receipt.outcome, receipt.projects), ("refused", ()))
                self.assertIn(words, receipt.message)
        self.setUp()
        self.assertIn("no project x.crw", self.run_order(file="x.crw").message)
