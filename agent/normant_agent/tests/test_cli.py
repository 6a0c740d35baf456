import json
import tempfile
from pathlib import Path
from unittest import TestCase

from typer.testing import CliRunner, Result

from normant_agent.cli import app

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
        self.assertIn("house wants one of hadrel, opencl (Cutting rooms, over Whole facility)", done.stdout)
        self.assertIn("4.3 times too small (distance -2.09); fix: 6.4 GiB", done.stdout)

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
