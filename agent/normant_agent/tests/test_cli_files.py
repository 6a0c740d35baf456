import json
import tempfile
from pathlib import Path
from unittest import TestCase

from typer.testing import CliRunner, Result

from normant_agent.cli.program import app

from .bench import EXAMPLES

CORROW = EXAMPLES / "corrow.dialect.toml"
PREFERENCES = (
    b"<settings>\r\n  <render device='software'/>\r\n  <memory><spare>1536</spare></memory>\r\n</settings>\r\n"
)


def run(*words: object) -> Result:
    return CliRunner().invoke(app, [str(word) for word in words])


class Files(TestCase):
    def setUp(self) -> None:
        made = tempfile.TemporaryDirectory()
        self.addCleanup(made.cleanup)
        self.folder = Path(made.name)
        self.json = self._made("t.json", b'{\r\n  "a=b": "x", "n": {"\xc3\xa9": [1, true]}\r\n}')
        self.xml = self._made("corrow/8/preferences.xml", PREFERENCES)

    def _made(self, name: str, content: bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
        return path

    def test_get_prints_every_value_with_its_bytes(self) -> None:
        raw = self.json.read_bytes()
        lines = [json.loads(line) for line in run("get", self.json, "--format", "json").stdout.splitlines()]
        self.assertEqual(
            [(t["at"], t["value"], t["kind"]) for t in lines],
            [("/a=b", "x", "text"), ("/n/é/0", 1, "number"), ("/n/é/1", True, "bool")],
        )
        self.assertEqual([raw[t["start"] : t["end"]] for t in lines], [b'"x"', b"1", b"true"])

    def test_get_prints_one_value_as_text(self) -> None:
        self.assertEqual(run("get", self.json, "/a=b").stdout, "/a=b = x\n")

    def test_set_changes_the_bytes_of_its_values_alone(self) -> None:
        done = run("set", self.json, "/a=b=y=z", "/n/é/0=2", "/n/new=1/2")
        self.assertEqual(done.stdout_bytes, b'{\r\n  "a=b": "y=z", "n": {"\xc3\xa9": [2, true], "new": "1/2"}\r\n}')

    def test_set_in_place_or_not_at_all(self) -> None:
        before = self.json.read_bytes()
        self.assertEqual(run("set", self.json, "/a=b=y", "/n=1", "--in-place").exit_code, 2)
        self.assertEqual(self.json.read_bytes(), before)
        self.assertEqual(run("set", self.json, "/a=b=y", "--in-place").exit_code, 0)
        self.assertEqual(self.json.read_bytes(), before.replace(b'"x"', b'"y"'))

    def test_half_a_character_is_printed_as_json_writes_it(self) -> None:
        half = self.folder / "half.json"
        half.write_bytes(b'{"a": "\\ud800x"}')
        self.assertIn("\\ud800x", run("get", half).stdout)
        self.assertEqual(json.loads(run("get", half, "--format", "json").stdout)["value"], "\ud800x")

    def test_faults_name_the_file_the_place_and_what_there_is(self) -> None:
        broken = self._made("b.json", b'{"a": }')
        cases = {
            ("get", self.json, "/n/x"): "t.json: there is no /n/x",
            ("get", broken): "b.json: line 1, column 7",
            ("get", self.folder / "none.ini"): "none.ini cannot be read: No such file",
            ("get", self._made("odd", b"%%")): "say it with --as, one of xml, json",
            ("get", self.json, "--as", "ink"): "unknown format 'ink'",
            ("set", self.json, "nothing"): "'nothing': expected AT=VALUE",
            ("read", CORROW, self.folder / "no"): "no is no folder",
            (
                "write",
                CORROW,
                self.folder,
                "memory.spare=1",
            ): "does not hold memory.spare: expected one of engine.effects",
            ("write", CORROW, self.folder, "memory.held_back=lots"): "memory.held_back cannot be 'lots'",
            ("dialect", "check", self.json): "t.json:1:",
        }
        for words, expected in cases.items():
            with self.subTest(expected):
                done = run(*words)
                self.assertEqual(done.exit_code, 2, done.output)
                self.assertIn(expected, done.stderr)

    def test_read_prints_readings_and_tells_what_is_unread(self) -> None:
        done = run("read", CORROW, self.folder, "--format", "json")
        values = {line["setting"]: line["value"] for line in map(json.loads, done.stdout.splitlines())}
        self.assertEqual(values, {"engine.effects": "cpu", "memory.held_back": 1536 * 2**20})
        self.assertEqual(done.exit_code, 1)
        self.assertIn(
            "dialect:corrow:memory.preview_pool: corrow/8/preferences.xml: /settings/memory/preview", done.stderr
        )

    def test_write_writes_every_setting_or_none(self) -> None:
        self.assertEqual(run("write", CORROW, self.folder, "engine.effects=hadrel", "playback.scale=1/2").exit_code, 2)
        self.assertEqual(self.xml.read_bytes(), PREFERENCES)
        done = run(
            "write", CORROW, self.folder, "engine.effects=hadrel", "memory.held_back=6.4 GiB", "--format", "json"
        )
        lines = [json.loads(line) for line in done.stdout.splitlines()]
        self.assertEqual(
            [(t["before"], t["after"], t["value"]) for t in lines],
            [("software", "hadrel", "hadrel"), ("1536", "6554", "6.4 GiB")],
        )
        self.assertEqual(self.xml.read_bytes(), PREFERENCES.replace(b"software", b"hadrel").replace(b"1536", b"6554"))
