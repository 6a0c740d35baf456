"""`normant project check` on real files."""

import json
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

DIALECT = """
format = "normant-dialect/1"
app = "corrow"
versions = ">=8"
file = []

[[project]]
files = "*.crw"
format = "xml"
item = "/project/media/item"
id = "@id"
path = "@at"
uses = ["/project/cut/clip/@media"]
version = "/project/@saved"
"""


class Checks(TestCase):
    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)
        (self.folder / "corrow.dialect.toml").write_text(DIALECT, "utf-8")
        for name in ("a.mov", "b.mov"):
            (self.folder / name).write_bytes(bytes(100))
        self.project = self.folder / "reel.crw"
        items = "".join(f'<item id="{n}" at="{p}"/>' for n, p in enumerate(("a.mov", "a.mov", "b.mov", "gone%20.mov")))
        self.project.write_text(
            f'<project saved="8.3"><media>{items}</media><cut><clip media="0"/></cut></project>', "utf-8"
        )

    def run_check(self, *more: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "normant_agent.cli", "project", "check", str(self.project)]
        command += ["--dialect", str(self.folder / "corrow.dialect.toml"), *more]
        return subprocess.run(command, capture_output=True, text=True, check=False)

    def test_what_is_wrong_is_told_and_the_project_is_as_it_was(self) -> None:
        before = self.project.read_bytes()
        done = self.run_check("--format", "json")
        self.assertEqual(done.returncode, 0, done.stderr)
        checked = json.loads(done.stdout)
        self.assertEqual(
            (checked["version"], checked["items"], checked["used"], checked["missing"], checked["duplicates"]),
            ("8.3", 4, 1, 1, 1),
        )
        self.assertEqual((checked["size"], checked["unused"]), (200, 100))
        self.assertIn("missing: gone%20.mov: the file does not exist", self.run_check().stdout)
        self.assertEqual(self.project.read_bytes(), before)

    def test_media_outside_the_storage_is_misplaced(self) -> None:
        elsewhere = self.folder / "storage"
        elsewhere.mkdir()
        done = self.run_check("--storage", str(elsewhere), "--format", "json")
        whys = [t["why"] for t in json.loads(done.stdout)["troubles"] if t["trouble"] == "misplaced"]
        self.assertTrue(whys and all("outside the production's storage" in why for why in whys))

    def test_bad_input_says_where_and_ends_with_two(self) -> None:
        self.project.write_text("<project>\n<media>", "utf-8")
        done = self.run_check()
        self.assertEqual((done.returncode, "Traceback" in done.stderr), (2, False))
        self.assertIn("damaged XML", done.stderr)
        self.project = self.folder / "nothing.crw"
        self.assertEqual(self.run_check().returncode, 2)
        self.project = self.folder / "a.mov"
        self.assertIn("is no project that corrow.dialect.toml tells of", self.run_check().stderr)
