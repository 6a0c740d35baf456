import json
import tempfile
from pathlib import Path
from unittest import TestCase
from xml.etree import ElementTree

from typer.testing import CliRunner, Result

from normant_agent.cli.program import app

from .bench import EXAMPLES

STANDARD, SURVEY = EXAMPLES / "house.standard.toml", EXAMPLES / "pan-03.survey.json"
REGISTER = f"--register={EXAMPLES / 'register.csv'}"


def run(*words: object) -> Result:
    return CliRunner().invoke(app, [str(word) for word in words])


class Check(TestCase):
    def test_the_worked_documents_give_their_table_as_json_lines(self) -> None:
        done = run("check", STANDARD, SURVEY, REGISTER, "--format", "json")
        lines = [json.loads(line) for line in done.stdout.splitlines()]
        self.assertEqual(done.exit_code, 1)
        self.assertEqual(
            [(line["setting"], line["fix"], line["distance"] and round(line["distance"], 2)) for line in lines],
            [
                ("engine.effects", "hadrel", None),
                ("memory.held_back", 6871947674, -2.09),
                ("memory.preview_pool", 13743895348, -5.68),
                ("store.source_cache.path", "v1", None),
                ("playback.scale", "1/2", 1.0),
                ("power.profile", "performance", None),
                ("delivery.full_raw", True, None),
            ],
        )

    def test_and_as_text(self) -> None:
        done = run("check", STANDARD, SURVEY, REGISTER)
        self.assertIn("house standard: one of hadrel, opencl (Cutting rooms, over Whole facility)", done.stdout)
        self.assertIn("4.3 times too small (distance -2.09); fix: 6.4 GiB", done.stdout)

    def test_one_seat_alone_gets_the_verdicts_that_it_gets_in_a_house(self) -> None:
        """One survey is judged by itself, several are judged as a house: two ways to the same lines."""
        with tempfile.TemporaryDirectory() as folder:
            other = Path(folder, "other.json")
            other.write_text(SURVEY.read_text("utf-8").replace('"pan-03"', '"pan-04"'), "utf-8")
            for more in ((), ("--all",)):
                alone = run("check", STANDARD, SURVEY, REGISTER, "--format", "json", *more).stdout.splitlines()
                both = run("check", STANDARD, SURVEY, other, REGISTER, "--format", "json", *more).stdout.splitlines()
                self.assertEqual([line for line in both if json.loads(line)["seat"] == "pan-03"], alone)
                self.assertGreater(len(both), len(alone))

    def test_nothing_off_norm_exits_with_zero(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            empty = Path(folder, "empty.toml")
            empty.write_text('format = "normant-standard/1"\nname = "n"\n[[layer]]\nname = "l"\n')
            self.assertEqual(run("check", empty, SURVEY).exit_code, 0)

    def test_bad_input_exits_with_two_and_says_where(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            bad = Path(folder, "bad")
            cases = {
                "bad:8:11: layer[0].rule[0].setting: unknown setting 'power.profil'": (
                    STANDARD.read_text().replace("power.profile", "power.profil").encode(),
                    ("check", bad, SURVEY),
                ),
                "bad:2:2": (b"{\n}x", ("check", STANDARD, bad)),
                "bad:1:1: byte 0 is not UTF-8": (b"\xff", ("check", bad, SURVEY)),
                "bad:1:1: the register has no column 'role'": (
                    b"seat,room\n",
                    ("check", STANDARD, SURVEY, "--register", bad),
                ),
            }
            for words, (content, command) in cases.items():
                with self.subTest(words):
                    bad.write_bytes(content)
                    done = run(*command)
                    self.assertEqual(done.exit_code, 2, done.output)
                    self.assertIn(words, done.stderr)

    def test_a_missing_file_is_bad_input(self) -> None:
        self.assertEqual(run("check", "nowhere.toml", SURVEY).exit_code, 2)


class Others(TestCase):
    def test_an_agent_that_is_not_enrolled_says_what_to_do(self) -> None:
        done = run("agent", "--state", tempfile.mkdtemp())
        self.assertEqual(done.exit_code, 1)
        self.assertIn("normant enrol URL CODE", done.stderr)

    def test_a_server_that_is_not_there_enrols_nobody(self) -> None:
        state = Path(tempfile.mkdtemp())
        done = run("enrol", "http://127.0.0.1:9", "code", "--state", state)
        self.assertEqual((done.exit_code, list(state.iterdir())), (1, []))
        self.assertIn("cannot be reached", done.stderr)


class Review(TestCase):
    """A standard under review: without a server, for people and for tools."""

    def setUp(self) -> None:
        made = tempfile.TemporaryDirectory()
        self.addCleanup(made.cleanup)
        self.folder = Path(made.name)

    def file(self, name: str, text: str) -> Path:
        path = self.folder / name
        path.write_text(text, "utf-8")
        return path

    def test_many_surveys_in_one_file_are_told_seat_by_seat(self) -> None:
        document = json.loads(SURVEY.read_text("utf-8"))
        other = {**document, "seat": "pan-04", "readings": []}
        for name in ("many.ndjson", "many.txt"):
            path = self.file(name, f"{json.dumps(document)}\n{json.dumps(other)}\n")
            lines = [json.loads(line) for line in run("check", STANDARD, path, "--format", "json").stdout.splitlines()]
            self.assertEqual({line["seat"] for line in lines if line["status"] == "off-norm"}, {"pan-03"})
        broken = run("check", STANDARD, self.file("bad.ndjson", f"{json.dumps(document)}\n{{}}\n"))
        self.assertEqual(broken.exit_code, 2)
        self.assertIn("bad.ndjson: document 2", broken.stderr)

    def test_check_speaks_junit(self) -> None:
        done = run("check", STANDARD, SURVEY, REGISTER, "--format", "junit")
        suite = ElementTree.fromstring(done.stdout).find("testsuite")
        assert suite is not None
        self.assertEqual((suite.get("name"), suite.get("failures")), ("pan-03", "7"))
        failed = [case.get("name") for case in suite if case.find("failure") is not None]
        self.assertIn("memory.held_back, corrow", failed)
        self.assertEqual(len(suite), 7)

    def test_lint_says_its_doubts_by_line_and_speaks_sarif(self) -> None:
        doubtful = self.file("s.toml", STANDARD.read_text("utf-8"))
        done = run("lint", doubtful, SURVEY, REGISTER)
        self.assertEqual(done.exit_code, 1)
        self.assertIn(f"{doubtful}:13: warning: no-fix: must without fix", done.stdout)
        sarif = json.loads(run("lint", doubtful, "--format", "sarif").stdout)
        self.assertEqual(sarif["version"], "2.1.0")
        results = sarif["runs"][0]["results"]
        self.assertEqual(results[0]["locations"][0]["physicalLocation"]["region"], {"startLine": 13})
        self.assertLessEqual(
            {r["ruleId"] for r in results}, {r["id"] for r in sarif["runs"][0]["tool"]["driver"]["rules"]}
        )

    def test_impact_says_what_another_standard_would_do(self) -> None:
        other = self.file("new.toml", STANDARD.read_text("utf-8").replace('want = "performance"', 'want = "balanced"'))
        done = run("impact", STANDARD, other, SURVEY, REGISTER)
        self.assertEqual(done.exit_code, 1)
        self.assertEqual(done.stdout.splitlines()[0], "This would close 1 finding on 1 seat; 6 would stay.")
        self.assertIn("closes: power.profile on pan-03", done.stdout)
        self.assertEqual(run("impact", STANDARD, STANDARD, SURVEY).exit_code, 0)
        result = json.loads(run("impact", STANDARD, other, SURVEY, REGISTER, "--format", "json").stdout)
        self.assertEqual(result["kept"], 6)
